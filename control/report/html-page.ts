/** The page a report is: its template (mustache(5)), its style and what sorts its tables. */

export const PAGE = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="generator" content="Vornak">
<title>{{title}}</title>
<style>
@font-face { font-family: Archivo; font-weight: 100 900; src: url(data:font/woff2;base64,{{{font}}}) format('woff2'); }
@page { size: {{size}}; margin: 18mm 16mm; }
{{{style}}}</style>
</head>
<body>
<article>
<header class="head">
{{{logo}}}
<div>{{#organisation}}<b>{{organisation}}</b><br>{{/organisation}}{{#audience}}for {{audience}}{{/audience}}</div>
<div class="about">{{about}}</div>
</header>
<h1>{{title}}</h1>
<p class="subtitle">{{subtitle}}</p>
<section class="answer" aria-label="Answer">
<p>{{{answer.mark}}}<b>{{answer.sentence}}</b></p>
{{#answer.why}}<p class="why">{{answer.why}}</p>{{/answer.why}}
</section>
{{#sections}}
<section id="{{id}}">
<div class="title"><h2>{{title}}</h2><span>{{aside}}</span></div>
{{#note}}<div class="note">{{{note}}}</div>{{/note}}
{{#blocks}}
{{#text}}<p>{{{mark}}}{{text}}</p>{{/text}}
{{#list}}<ul>{{#items}}<li>{{{mark}}}{{text}}{{#then}} <span class="quiet">{{then}}</span>{{/then}}</li>{{/items}}</ul>{{/list}}
{{#curve}}<div class="curve" role="img" aria-label="{{says}}">{{{svg}}}</div>{{/curve}}
{{#table}}<div class="wide"><table>
<thead><tr>{{#columns}}<th scope="col"{{#isFigure}} class="figure"{{/isFigure}}>{{#sorts}}<button type="button">{{name}}</button>{{/sorts}}</th>{{/columns}}</tr></thead>
<tbody>{{#rows}}<tr>{{#cells}}<td{{#isFigure}} class="figure"{{/isFigure}}{{#hasBy}} data-by="{{by}}"{{/hasBy}}>{{{mark}}}{{#isStrong}}<b>{{text}}</b>{{/isStrong}}{{^isStrong}}{{text}}{{/isStrong}}</td>{{/cells}}</tr>
{{/rows}}</tbody>
{{#foot}}<tfoot><tr>{{#cells}}<td{{#isFigure}} class="figure"{{/isFigure}}>{{text}}</td>{{/cells}}</tr></tfoot>{{/foot}}
</table></div>{{/table}}
{{/blocks}}
</section>
{{/sections}}
<footer>{{about}} <span>Vornak</span></footer>
</article>
<script>{{{script}}}</script>
</body>
</html>
`

export const PAGE_STYLE = `* { box-sizing: border-box; }
body { margin: 0; background: #F7F5F0; color: #1B2426; font: 13px/1.45 Archivo, sans-serif; }
article { max-width: 794px; margin: 12px auto; padding: 40px 52px; background: #FFF; border: 1px solid #DED9CE; }
.head { display: flex; gap: 14px; align-items: flex-end; min-height: 20px; padding-bottom: 10px; border-bottom: 2px solid #1B2426; }
.head .about { margin-left: auto; text-align: right; }
.about, .subtitle, .quiet, .title span, footer { color: #566165; }
.logo { max-height: 48px; max-width: 180px; }
h1 { font-size: 25px; line-height: 1.2; margin: 18px 0 2px; }
.subtitle { margin: 0 0 14px; }
.answer { border: 1px solid #1B2426; border-left-width: 6px; padding: 10px 16px; font-size: 17px; line-height: 1.35; }
.answer p { margin: 0; }
.answer .why { font-size: 13px; margin-top: 6px; }
.mark { margin-right: 6px; vertical-align: -1px; flex: none; }
.title { display: flex; flex-wrap: wrap; gap: 2px 12px; justify-content: space-between; align-items: baseline; margin-top: 22px; border-bottom: 1px solid #1B2426; }
h2 { font-size: 15px; margin: 0; }
h3, h4 { font-size: 13px; margin: 10px 0 2px; }
section > p, .note p { margin: 6px 0; }
ul { margin: 6px 0; padding-left: 18px; }
li { margin: 2px 0; }
.note { border-left: 2px solid #DED9CE; padding-left: 10px; margin: 6px 0; }
.wide { overflow-x: auto; margin: 4px 0; }
table { border-collapse: collapse; width: 100%; font-variant-numeric: tabular-nums; }
th, td { text-align: left; padding: 4px 10px 4px 0; border-bottom: 1px solid #DED9CE; vertical-align: top; }
th { font-weight: 400; }
.figure { text-align: right; white-space: nowrap; }
th:last-child, td:last-child { padding-right: 0; }
tfoot td { border-top: 1px solid #8A8778; border-bottom: 0; font-weight: 600; }
th button { all: unset; cursor: pointer; color: #566165; }
th button:focus-visible { outline: 2px solid #0F5C6E; outline-offset: 2px; }
th[aria-sort] button { color: #1B2426; font-weight: 600; }
th[aria-sort=ascending] button::after { content: ' \\2191'; }
th[aria-sort=descending] button::after { content: ' \\2193'; }
.curve svg { max-width: 100%; height: auto; }
footer { display: flex; justify-content: space-between; margin-top: 26px; padding-top: 6px; border-top: 1px solid #DED9CE; }
a { color: #0F5C6E; }
@media (max-width: 600px) { article { padding: 16px; border: 0; margin: 0; } }
@media print { body { background: #FFF; } article { max-width: none; margin: 0; padding: 0; border: 0; } tr, .curve, .answer { break-inside: avoid; } .title { break-after: avoid; } }
`

/** Sorts the rows of a table by the column that was pressed: by figures where there are any, else by letters. */
export const PAGE_SCRIPT = `
for (const button of document.querySelectorAll('th button')) button.addEventListener('click', () => {
  const head = button.parentElement, table = head.closest('table'), at = head.cellIndex
  const turned = head.getAttribute('aria-sort') === 'descending' ? 'ascending' : 'descending'
  for (const other of table.querySelectorAll('th')) other.removeAttribute('aria-sort')
  head.setAttribute('aria-sort', turned)
  const sign = turned === 'ascending' ? 1 : -1
  const value = row => { const { dataset, textContent } = row.cells[at]; return dataset.by === undefined ? textContent : Number(dataset.by) }
  const order = (a, b) => typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b))
  const body = table.tBodies[0]
  body.append(...[...body.rows].sort((a, b) => sign * order(value(a), value(b))))
})
`
