/** `report`: the demo's second run as HTML and as PDF, asked for as a browser does; against one another. */
import { pathToFileURL } from 'node:url'
import { tell } from './measure'

const ASKED = 5
const HTML_GOAL_MS = 1000
const HTML_GOAL_BYTES = 1_500_000
const PDF_GOAL_MS = 4000
const RUN = 2

interface House {
  url: string
  close(): Promise<void>
}

/** @param program of the benches: the scripts lie beside its folder */
export async function benchReport(program: string): Promise<void> {
  const script = new URL('../scripts/house.mjs', pathToFileURL(program))
  const { openHouse } = (await import(script.href)) as { openHouse: () => Promise<House> }
  const house = await openHouse()
  try {
    const html = await printed(house, 'html')
    const pdf = await printed(house, 'pdf')
    const about = 'the demo’s run of six minutes'
    const told = (what: string, of: number, reference: number, most: number, unit: string) =>
      tell({
        bench: 'report',
        case: `${about} ${what}`,
        value: of,
        unit,
        reference,
        ratio: of / reference,
        goal: `value <= ${most} ${unit}`,
      })
    told('as HTML, against PDF', html.ms, pdf.ms, HTML_GOAL_MS, 'ms')
    told('as PDF, against HTML', pdf.ms, html.ms, PDF_GOAL_MS, 'ms')
    told('as HTML, its size against the PDF', html.bytes, pdf.bytes, HTML_GOAL_BYTES, 'B')
  }
  finally {
    await house.close()
  }
}

/** The slowest of some: the first has to read the run. */
async function printed({ url }: House, form: 'html' | 'pdf'): Promise<{ ms: number, bytes: number }> {
  let most = { ms: 0, bytes: 0 }
  for (let i = 0; i < ASKED; i++) {
    const at = performance.now()
    const answer = await fetch(`${url}/api/runs/${RUN}/report.${form}`)
    const { byteLength: bytes } = await answer.arrayBuffer()
    if (!answer.ok) throw new Error(`the report could not be made: ${answer.status}`)
    const ms = performance.now() - at
    if (ms > most.ms) most = { ms, bytes }
  }
  return most
}
