/** What people write under a section: Markdown (CommonMark), of which only harmless parts are left. */
import { Marked } from 'marked'
import clean from 'sanitize-html'

const markdown = new Marked({ gfm: true })

/** @returns HTML without scripts, styles, pictures from elsewhere or anything else that acts */
export function noteHtml(note: string): string {
  return clean(markdown.parse(note, { async: false }), {
    allowedTags: ['p', 'br', 'em', 'strong', 'del', 'code', 'pre', 'ul', 'ol', 'li', 'blockquote', 'h3', 'h4', 'a', 'table', 'thead', 'tbody', 'tr', 'th', 'td', 'hr'],
    allowedAttributes: { a: ['href'] },
    allowedSchemes: ['http', 'https', 'mailto'],
    // A report has headings of its own above these.
    transformTags: { h1: 'h3', h2: 'h3', h5: 'h4', h6: 'h4' },
  })
}

/** Its blocks as the language's own parser tells them. */
export function noteTokens(note: string) {
  return markdown.lexer(note)
}
