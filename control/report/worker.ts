/** The thread that prints one report. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { parentPort, workerData } from 'node:worker_threads'
import { reportHtml } from './html'
import { reportMarkdown } from './markdown'
import type { Printed, PrintJob } from './printer'

const { resolve } = createRequire(import.meta.url)
const archivo = (weight: string) => resolve(`@expo-google-fonts/archivo/${weight}/Archivo_${weight}.ttf`)
const wide = (name: string) => resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`)

async function print({ report, form }: PrintJob): Promise<string | Uint8Array> {
  switch (form) {
    case 'html':
      return reportHtml(report, readFileSync(resolve('@fontsource-variable/archivo/files/archivo-latin-wght-normal.woff2')))
    case 'markdown':
      return reportMarkdown(report)
    case 'pdf': {
      // Nobody else pays for reading it.
      const { reportPdf } = await import('./pdf')
      return reportPdf(report, {
        normal: archivo('400Regular'),
        bold: archivo('700Bold'),
        italics: archivo('400Regular_Italic'),
        bolditalics: archivo('700Bold_Italic'),
        wide: wide('DejaVuSans'),
        wideBold: wide('DejaVuSans-Bold'),
      })
    }
  }
}

const tell = (printed: Printed) => parentPort!.postMessage(printed)
print(workerData as PrintJob).then(
  content => tell({ content }),
  (error: Error) => tell({ trouble: error.message }),
)
