/**
 * As much of SFTP (draft-ietf-secsh-filexfer-02) as bringing a file takes: open for writing, write, set attributes,
 * close.
 */
import { close, fchmod, open, write } from 'node:fs'
import ssh2, { type SFTPWrapper } from 'ssh2'

const { OPEN_MODE, STATUS_CODE } = ssh2.utils.sftp

export function serveFiles(sftp: SFTPWrapper): void {
  const handles = new Map<number, number>()
  let next = 0
  const done = (request: number) => (error: NodeJS.ErrnoException | null) =>
    sftp.status(request, error ? STATUS_CODE.FAILURE : STATUS_CODE.OK, error?.message)
  const descriptor = (handle: Buffer) => handles.get(handle.readUInt32BE(0))
  sftp.on('OPEN', (request, path, flags, { mode }) => {
    if (!(flags & OPEN_MODE.WRITE)) return sftp.status(request, STATUS_CODE.OP_UNSUPPORTED)
    open(path, 'w', mode ?? 0o600, (error, fd) => {
      if (error) return sftp.status(request, STATUS_CODE.FAILURE, error.message)
      const handle = Buffer.alloc(4)
      handle.writeUInt32BE(next)
      handles.set(next++, fd)
      sftp.handle(request, handle)
    })
  })
  sftp.on('WRITE', (request, handle, offset, data) => {
    const fd = descriptor(handle)
    if (fd === undefined) return sftp.status(request, STATUS_CODE.FAILURE)
    write(fd, data, 0, data.length, offset, done(request))
  })
  sftp.on('FSETSTAT', (request, handle, { mode }) => {
    const fd = descriptor(handle)
    if (fd === undefined) return sftp.status(request, STATUS_CODE.FAILURE)
    if (mode === undefined) return done(request)(null)
    fchmod(fd, mode, done(request))
  })
  sftp.on('CLOSE', (request, handle) => {
    const fd = descriptor(handle)
    if (fd === undefined) return sftp.status(request, STATUS_CODE.FAILURE)
    handles.delete(handle.readUInt32BE(0))
    close(fd, done(request))
  })
}
