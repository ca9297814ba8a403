/** The page of the documentation that lists the API (`docs/api.md`), made of its table. */
import { ADDRESSES } from './addresses'
import { OPERATIONS, type Operation } from './operations'
import { entriesIn } from '../core/values/written-out'

export function printApi(): string {
  const rows = entriesIn(ADDRESSES).map(([id, address]) => {
    const { about, file, errors, role }: Operation = OPERATIONS[id]
    const [method, path] = address.split(' ')
    const answered = file === undefined ? '' : ` (${file.split(';')[0]})`
    return `| \`${method} /api${path}\` | \`${id}\` | ${about}${answered} | ${role} | ${errors.map(e => `\`${e}\``).join(' ') || '–'} |`
  })
  return `# The API

Everything the interface does can be asked for over HTTP. \`GET /api/openapi.json\` answers with all of it as an OpenAPI
3.1 document: parameters, bodies, answers. Bodies are JSON (\`content-type: application/json\`), but for uploads, which are
\`application/octet-stream\`. What goes wrong is answered with \`code\`, \`sentence\` and \`remedy\`, and with
\`faults\` where it lies at places in the body; [errors.md](errors.md) has every code. Besides its own codes any
operation may answer with \`address\`, \`form\`, \`json\`, \`too-large\`, \`content-type\`, \`origin\`, \`host\`,
\`forwarded\`, \`sign-in\`, \`role\` or \`fault\`. Made from \`api/\` by \`npm run schemas\`.

From the first person on, anyone who asks must be known: by the cookie that comes with \`signIn\`, or by a token of theirs
(\`Authorization: Bearer …\`). An operator may what a viewer may, a keeper everything.

| Address | Operation | What it does | For | Its own codes |
|---|---|---|---|---|
${rows.join('\n')}
`
}
