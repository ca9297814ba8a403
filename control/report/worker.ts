/** The thread that prints one report. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { workerData } from 'node:worker_threads'
import type { Report } from '../../core/report/report'
import { reportHtml } from './html'
import { reportMarkdown } from './markdown'
import type { Printed, PrintJob } from './printer'
import { port } from '../parent-port'

const { resolve } = createRequire(import.meta.url)
const archivo = (weight: string) => resolve(`@expo-google-fonts/archivo/${weight}/Archivo_${weight}.ttf`)
const wide = (name: string) => resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`)

// The thread that starts this worker gives it that.
const { form } = workerData as PrintJob

/** What sets type in this form, with its fonts. */
async function setter(): Promise<(report: Report) => string | Uint8Array | Promise<Uint8Array>> {
  switch (form) {
    case 'html': {
      const font = readFileSync(resolve('@fontsource-variable/archivo/files/archivo-latin-wght-normal.woff2'))
      return report => reportHtml(report, font)
    }
    case 'markdown':
      return reportMarkdown
    case 'pdf': {
      // Nobody else pays for reading it.
      const { reportPdf } = await import('./pdf')
      const fonts = {
        normal: archivo('400Regular'),
        bold: archivo('700Bold'),
        italics: archivo('400Regular_Italic'),
        bolditalics: archivo('700Bold_Italic'),
        wide: wide('DejaVuSans'),
        wideBold: wide('DejaVuSans-Bold'),
      }
      return report => reportPdf(report, fonts)
    }
  }
}

const tell = (printed: Printed) => port.postMessage(printed)
const ready = setter()
port.once('message', (report: Report) => {
  ready.then(set => set(report)).then(
    content => tell({ content }),
    (error: Error) => tell({ trouble: error.message }),
  )
})
