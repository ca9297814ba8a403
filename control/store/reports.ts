/** What reports are to show: of a run, and by a name. */
import type { ReportWish } from '../../core/report/wish'
import type { Store } from './open'
import { fromStore } from './from-store'

export interface ReportTemplate {
  name: string
  wish: ReportWish
  /** Reports of runs for which nobody chose are made so. */
  isUsual: boolean
}

export type ReportStore = ReturnType<typeof reportStore>

export function reportStore(store: Store) {
  const ofRun = store.prepare<[number], { wish: string }>('SELECT wish FROM run_reports WHERE run_id = ?')
  const putOfRun = store.prepare(`
    INSERT INTO run_reports (run_id, wish)
    VALUES (@run, @wish)
    ON CONFLICT (run_id)
    DO UPDATE SET wish = excluded.wish
  `)
  const dropOfRun = store.prepare<[number]>('DELETE FROM run_reports WHERE run_id = ?')
  const all = store.prepare<[], { name: string, wish: string, is_usual: number }>(
    'SELECT name, wish, is_usual FROM report_templates ORDER BY name',
  )
  const put = store.prepare(`
    INSERT INTO report_templates (name, wish, is_usual)
    VALUES (@name, @wish, @isUsual)
    ON CONFLICT (name)
    DO UPDATE SET wish = excluded.wish, is_usual = excluded.is_usual
  `)
  const usualNoMore = store.prepare('UPDATE report_templates SET is_usual = 0')
  const drop = store.prepare<[string]>('DELETE FROM report_templates WHERE name = ?')
  return {
    wishOf(run: number): ReportWish | undefined {
      const row = ofRun.get(run)
      return row && fromStore<ReportWish>(row.wish)
    },
    setWishOf(run: number, wish: ReportWish | undefined): void {
      if (wish) putOfRun.run({ run, wish: JSON.stringify(wish) })
      else dropOfRun.run(run)
    },
    templates: (): ReportTemplate[] =>
      all.all().map(({ name, wish, is_usual }) => ({
        name,
        wish: fromStore<ReportWish>(wish),
        isUsual: is_usual === 1,
      })),
    /** Of usual ones there is one at most. */
    saveTemplate: store.transaction(({ name, wish, isUsual }: ReportTemplate) => {
      if (isUsual) usualNoMore.run()
      put.run({ name, wish: JSON.stringify(wish), isUsual: isUsual ? 1 : 0 })
    }),
    removeTemplate: (name: string): boolean => drop.run(name).changes > 0,
  }
}
