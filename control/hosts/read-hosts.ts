/**
 * A table of hosts, pasted from a spreadsheet or read from a CSV file: one row a host, columns by their names, empty
 * cells as the template says.
 */
import { parse } from 'csv-parse/sync'
import type { Host } from '../../core/fleet/site'
import { ControlError } from '../errors'
import { messageOf } from '../../core/values/thrown'

const COLUMNS = ['name', 'address', 'port', 'user', 'key', 'folder', 'cores', 'reservedBy', 'reservedUntil'] as const
type Column = (typeof COLUMNS)[number]
/** Without a heading, columns are taken in this order. */
const USUAL: readonly Column[] = ['name', 'address', 'port', 'user']
const MOST_ROWS = 500

/** @throws ControlError naming the row */
export function csvRows(text: string): Host[] {
  let rows: string[][]
  try {
    rows = parse(text.trim(), {
      delimiter: text.includes('\t') ? '\t' : text.includes(';') && !text.includes(',') ? ';' : ',',
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
      bom: true,
    })
  }
  catch (error) {
    throw wrong(`The table cannot be read: ${messageOf(error)}.`)
  }
  if (rows.length === 0) throw wrong('The table is empty.')
  const heading = rows[0]!.map(c => COLUMNS.find(k => k.toLowerCase() === c.toLowerCase().replace(/[\s_-]/g, '')))
  const headed = heading.includes('name') || heading.includes('address')
  const unknown = headed ? rows[0]!.find((c, i) => c !== '' && heading[i] === undefined) : undefined
  if (unknown) throw wrong(`The table has a column “${unknown}”, which is none of ${COLUMNS.join(', ')}.`)
  const columns = headed ? heading : USUAL
  const body = headed ? rows.slice(1) : rows
  if (body.length > MOST_ROWS) throw wrong(`The table has ${body.length} rows; a site has at most ${MOST_ROWS} hosts.`)
  return body.map((row, index) =>
    hostOf(
      Object.fromEntries(row.flatMap((cell, i) => (cell === '' || !columns[i] ? [] : [[columns[i], cell]]))),
      index + (headed ? 2 : 1),
    ),
  )
}

function hostOf(cells: Partial<Record<Column, string>>, row: number): Host {
  const at = (what: string) => wrong(`Row ${row}: ${what}`)
  const address = cells.address ?? cells.name
  if (!address) throw at('a host needs an address.')
  if (!/^[A-Za-z0-9[:][A-Za-z0-9._:[\]-]{0,254}$/.test(address)) throw at(`“${address}” is no address.`)
  const name = cells.name ?? address
  if (!/^[A-Za-z0-9][A-Za-z0-9.-]{0,62}$/.test(name))
    throw at(`“${name}” is no name: letters, digits, dots and hyphens.`)
  const port = cells.port === undefined ? undefined : Number(cells.port)
  if (port !== undefined && !(Number.isInteger(port) && port > 0 && port < 65_536))
    throw at(`“${cells.port}” is no port.`)
  const cores = cells.cores === undefined ? undefined : Number(cells.cores)
  if (cores !== undefined && !(cores > 0)) throw at(`“${cells.cores}” is no number of cores.`)
  if (cells.folder !== undefined && !/^(~\/|\/)[A-Za-z0-9._/-]{1,200}$/.test(cells.folder))
    throw at(
      `“${cells.folder}” is no directory Vornak can use: begin with ~/ or /, and keep to letters, digits, dots, hyphens.`,
    )
  const until = cells.reservedUntil === undefined ? undefined : new Date(cells.reservedUntil)
  if (until && Number.isNaN(until.getTime()))
    throw at(`“${cells.reservedUntil}” is no time: write it like 2026-03-01T18:00.`)
  return {
    name,
    address,
    ...(port === undefined ? {} : { port }),
    ...(cells.user ? { user: cells.user } : {}),
    ...(cells.key ? { key: cells.key } : {}),
    ...(cells.folder ? { folder: cells.folder } : {}),
    ...(cores === undefined ? {} : { cores }),
    ...(cells.reservedBy ? { reservedBy: cells.reservedBy } : {}),
    ...(until ? { reservedUntil: until.toISOString() } : {}),
  }
}

function wrong(sentence: string): ControlError {
  return new ControlError('hosts', 400, sentence, 'Correct the table and paste it again; nothing was changed.')
}
