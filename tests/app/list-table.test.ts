/** Lists: what is found, in which order, and what is copied. */
import { compareValues, rowsWith, toCsv, type ListColumn } from '../../app/components/marks/list-table'

interface Host {
  name: string
  cores?: number
}
const HOSTS: Host[] = [{ name: 'ovk-a', cores: 8 }, { name: 'ovk-b' }, { name: 'say "hi", b', cores: 16 }]
const COLUMNS: ListColumn<Host>[] = [
  { id: 'name', head: 'Name', value: h => h.name },
  { id: 'cores', head: 'Cores', num: true, value: h => h.cores },
  { id: 'acts', head: '' },
]

describe('a list', () => {
  it('finds the rows in which every word occurs, in any column and order', () => {
    expect(rowsWith(HOSTS, COLUMNS, '')).toEqual(HOSTS)
    expect(rowsWith(HOSTS, COLUMNS, '8 OVK')).toEqual([HOSTS[0]])
    expect(rowsWith(HOSTS, COLUMNS, ' b  ')).toEqual([HOSTS[1], HOSTS[2]])
    expect(rowsWith(HOSTS, COLUMNS, 'nobody')).toEqual([])
  })

  it('orders numbers by size, and numbers in words by size too', () => {
    expect([10, 9, 100].sort(compareValues)).toEqual([9, 10, 100])
    expect(['step 10', 'step 2', 'Step 1'].sort(compareValues)).toEqual(['Step 1', 'step 2', 'step 10'])
  })

  it('is copied with its head, quoted where it must be (RFC 4180, 2.6 and 2.7), without acts', () => {
    expect(toCsv(HOSTS, COLUMNS)).toBe('Name,Cores\r\novk-a,8\r\novk-b,\r\n"say ""hi"", b",16')
  })

  it('is no formula in a spreadsheet', () => {
    expect(toCsv([{ name: '=1+1' }], COLUMNS)).toBe('Name,Cores\r\n"\'=1+1",')
  })
})
