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
    tell({
      bench: 'report',
      case: `${about} as HTML, against PDF`,
      value: html.ms,
      unit: 'ms',
      reference: pdf.ms,
      ratio: html.ms / pdf.ms,
      goal: `value <= ${HTML_GOAL_MS} ms`,
    })
    tell({
      bench: 'report',
      case: `${about} as PDF, against HTML`,
      value: pdf.ms,
      unit: 'ms',
      reference: html.ms,
      ratio: pdf.ms / html.ms,
      goal: `value <= ${PDF_GOAL_MS} ms`,
    })
    tell({
      bench: 'report',
      case: `${about}: size of the HTML, against the PDF`,
      value: html.bytes,
      unit: 'B',
      reference: pdf.bytes,
      ratio: html.bytes / pdf.bytes,
      goal: `value <= ${HTML_GOAL_BYTES} B`,
    })
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
