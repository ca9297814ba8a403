/** Compiles a step's body into bytes to send: fixed where nothing in it depends on the moment. */
import { randomBytes } from 'node:crypto'
import type { Body } from '../../core/journey/journey'
import { compileTemplate, ESCAPES, type Resolved, type Template } from '../../core/values/template'
import type { ValueScope } from '../../core/values/scope'

export interface PreparedBody {
  /** Content type, unless the step names its own. */
  type: string
  fixed: string | Buffer | undefined
  build: (scope: ValueScope) => string | Buffer | undefined
  missing: (scope: ValueScope) => string | undefined
}

type Resolve = (name: string) => Resolved<ValueScope>

/** @param files contents of the library's files by content id @throws TemplateError */
export function prepareBody(body: Body, resolve: Resolve, files: ReadonlyMap<string, Uint8Array>): PreparedBody {
  switch (body.kind) {
    case 'json':
      return ofText('application/json', compileTemplate(body.text, resolve, ESCAPES.json))
    case 'raw':
      return ofText(body.type, compileTemplate(body.text, resolve, ESCAPES.none))
    case 'form':
      return ofTemplates(
        'application/x-www-form-urlencoded',
        body.fields.flat().map(text => compileTemplate(text, resolve, ESCAPES.none)),
        (texts) => {
          const form = new URLSearchParams()
          for (let i = 0; i < texts.length; i += 2) form.append(texts[i]!, texts[i + 1]!)
          return form.toString()
        },
      )
    case 'multipart': {
      // RFC 7578. The boundary is drawn once: 128 random bits do not turn up in a file.
      const boundary = `vornak-${randomBytes(16).toString('hex')}`
      const templates = body.parts.map(p => compileTemplate('text' in p ? p.text : '', resolve, ESCAPES.none))
      return ofTemplates(`multipart/form-data; boundary=${boundary}`, templates, texts =>
        Buffer.concat([
          ...body.parts.flatMap((part, i) => {
            const head =
              'text' in part
                ? `--${boundary}\r\ncontent-disposition: form-data; name="${quoted(part.name)}"\r\n\r\n`
                : `--${boundary}\r\ncontent-disposition: form-data; name="${quoted(part.name)}"; filename="${quoted(part.fileName)}"\r\ncontent-type: ${part.type}\r\n\r\n`
            const content = 'text' in part ? Buffer.from(texts[i]!) : files.get(part.file)
            if (!content) throw new Error(`the file ${'file' in part ? part.fileName : ''} is not here`)
            return [Buffer.from(head), content, Buffer.from('\r\n')]
          }),
          Buffer.from(`--${boundary}--\r\n`),
        ]),
      )
    }
  }
}

/** One text, sent as it is. */
function ofText(type: string, text: Template<ValueScope>): PreparedBody {
  return { type, fixed: text.fixed, build: scope => text.render(scope), missing: scope => text.missing(scope) }
}

function ofTemplates(
  type: string,
  templates: readonly Template<ValueScope>[],
  join: (texts: string[]) => string | Buffer,
): PreparedBody {
  const fixedTexts = templates.map(t => t.fixed)
  const fixed = fixedTexts.every(t => t !== undefined) ? join(fixedTexts) : undefined
  return {
    type,
    fixed,
    build(scope) {
      if (fixed !== undefined) return fixed
      const texts = templates.map(t => t.render(scope))
      return texts.every(t => t !== undefined) ? join(texts) : undefined
    },
    missing(scope) {
      for (const t of templates) {
        const name = t.missing(scope)
        if (name !== undefined) return name
      }
      return undefined
    },
  }
}

/** As browsers do it (WHATWG HTML, multipart/form-data). */
function quoted(name: string): string {
  return name.replaceAll('"', '%22').replaceAll('\r', '%0D').replaceAll('\n', '%0A')
}
