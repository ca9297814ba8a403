/** Sends a file to the server, telling how far it has come. */
import type { ApiProblem, UploadedFile } from '~~/api/views'

/** @param progress share sent, 0–1 @throws ApiError */
export function upload(file: File, progress: (share: number) => void): Promise<UploadedFile> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', hrefTo('upload', { name: file.name }))
    request.setRequestHeader('content-type', 'application/octet-stream')
    request.upload.onprogress = e => progress(e.lengthComputable ? e.loaded / e.total : 0)
    request.onerror = () =>
      reject(
        new ApiError({
          code: 'silent',
          sentence: 'The file did not get through.',
          remedy: 'Check that the server is running, and send it again.',
        }),
      )
    request.onload = () => {
      // The server answers one or the other.
      const body = JSON.parse(request.responseText || '{}') as UploadedFile & ApiProblem
      if (request.status < 300) resolve(body)
      else
        reject(
          new ApiError(
            body.sentence
              ? body
              : { code: 'upload', sentence: `The server answered ${request.status}.`, remedy: 'Send it again.' },
          ),
        )
    }
    request.send(file)
  })
}
