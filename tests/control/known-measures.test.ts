/** What was measured of a run is measured once. */
import { knownMeasures } from '../../control/run/known-measures'
import type { MeasuresWanted } from '../../control/ingest/measures'
import type { ComparedRow } from '../../core/compare/rows'
import { runDocument } from '../build/plans'

const row = (key: string): ComparedRow => ({ key, about: 'all', metric: 'p95', subject: {} })
const windows = [{ fromS: 0, toS: 60 }]

function measured() {
  const asked: string[] = []
  const measures = knownMeasures(({ path }, { rows, spread }: MeasuresWanted) => {
    asked.push(`${path} ${rows.map(r => r.key).join('+')}${spread ? ' ±' : ''}`)
    const error = spread ? { error: 0.1 } : {}
    return Promise.resolve(rows.map(r => ({ value: r.key.length, blocks: spread ? 12 : 0, ...error })))
  })
  const of = (path: string, keys: string[], spread: boolean, at = windows) =>
    measures({ path, document: runDocument(), machines: [] }, { rows: keys.map(row), windows: at, spread })
  return { asked, of }
}

describe('measures that are known', () => {
  it('are not asked for again, and come in the order of the rows', async () => {
    const { asked, of } = measured()
    await of('1.db', ['a', 'bb'], true)
    const all = await of('1.db', ['ccc', 'bb', 'a'], true)
    expect(all.map(s => s.value)).toEqual([3, 2, 1])
    expect(asked).toEqual(['1.db a+bb ±', '1.db ccc ±'])
  })

  it('serve one who asks for values alone, but values do not say how far they may be off', async () => {
    const { asked, of } = measured()
    await of('1.db', ['a'], false)
    expect((await of('1.db', ['a'], true))[0]).toMatchObject({ error: 0.1 })
    await of('1.db', ['a'], false)
    expect(asked).toEqual(['1.db a', '1.db a ±'])
  })

  it('are of one run and its windows', async () => {
    const { asked, of } = measured()
    await of('1.db', ['a'], true)
    await of('2.db', ['a'], true)
    await of('1.db', ['a'], true, [{ fromS: 0, toS: 50 }])
    expect(asked).toHaveLength(3)
  })
})
