/**
 * Documents as YAML text. Apart from reading, which needs the whole schema machinery: screens print, the server reads.
 */
import { stringify } from 'yaml'

export function printDocument(value: object): string {
  return stringify(value, { lineWidth: 120, aliasDuplicateObjects: false })
}
