/** Sets type for a mail: the same words as text and as HTML, with the report beside them. */
import Mustache from 'mustache'
import type { MailText } from '../../core/dispatch/run-mail'
import type { Mail } from './mail-server'

const HTML = `<!doctype html>
<html lang="en"><body style="font-family: sans-serif; font-size: 14px; line-height: 1.45; color: #1b2426; max-width: 640px">
<p style="color: #566165">{{question}}</p>
<p style="font-size: 18px"><b>{{sentence}}</b></p>
<ul>{{#lines}}<li>{{.}}</li>{{/lines}}</ul>
<p><a href="{{{address}}}">{{{address}}}</a></p>
</body></html>
`

/** @param pdf the report; left out: there is none */
export function mailOf(text: MailText, to: string, runId: number, pdf?: Uint8Array): Mail {
  const { subject, question, sentence, lines, address } = text
  return {
    to,
    subject,
    text: [question, '', sentence, '', ...lines.map(line => `- ${line}`), '', address, ''].join('\n'),
    html: Mustache.render(HTML, text),
    attachments: pdf ? [{ filename: `run-${runId}-report.pdf`, content: pdf, contentType: 'application/pdf' }] : [],
  }
}
