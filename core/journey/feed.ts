/** Test data as the library keeps it. */

export interface Feed {
  id: string
  name: string
  columns: string[]
  rows: number
  /** Content id of the file as it came. */
  source: string
  /** Content id of the rows as generators read them: one JSON array of texts per line. */
  rowsFile: string
  rowsBytes: number
  /** How the text was read. */
  encoding: string
  separator: string
  header: boolean
  /** What was noticed while reading, in words. */
  remarks: string[]
  /** The first rows. */
  preview: string[][]
}
