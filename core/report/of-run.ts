/** Makes the report of a run, section by section, as somebody wished it. */
import { utcMoment } from '../values/said-times'
import type { Report } from './report'
import type { ReportedRun } from './reported-run'
import { baseline } from './sections/compared'
import { cost, happened, method, setUp, target } from './sections/around'
import { failures, places, steps } from './sections/figures'
import { evidence, objectives } from './sections/judged'
import { asked, curve } from './sections/load'
import { nothing, type ToldSection } from './sections/told'
import { allSections, SECTION_NAMES, type ReportWish, type SectionId } from './wish'

const SECTIONS: Record<SectionId, (run: ReportedRun, wish: ReportWish) => ToldSection> = {
  asked,
  curve,
  objectives,
  baseline,
  steps: (run, wish) => steps(run, wish.steps),
  failures,
  places,
  target,
  evidence,
  cost,
  happened,
  setUp,
  method,
}

/** They tell of what may have been given back since. */
const OF_WHAT_WAS_MEASURED: readonly SectionId[] = ['curve', 'baseline', 'steps', 'failures', 'places', 'target']
const GIVEN_BACK = 'What the run measured was given back: its answer is what is left.'

export function reportOfRun(run: ReportedRun, wish: ReportWish): Report {
  const { plan } = run.document
  const { answer, why } = run.summary
  return {
    title: wish.title?.trim() || plan.name,
    subtitle: wish.subtitle?.trim() || plan.question,
    organisation: wish.organisation?.trim() ?? '',
    audience: wish.audience?.trim() ?? '',
    ...(wish.logo ? { logo: wish.logo } : {}),
    about: `Run ${run.id}${run.name ? `, ${run.name}` : ''}${run.build ? `, build ${run.build}` : ''} · ${utcMoment(run.startAt)}`,
    answer: { verdict: answer.verdict, sentence: answer.sentence, ...(why ? { why } : {}) },
    sections: allSections(wish.sections).filter(s => s.isShown).map(({ id, note }) => ({
      id,
      title: SECTION_NAMES[id],
      ...(note?.trim() ? { note } : {}),
      ...(run.isGivenBack && OF_WHAT_WAS_MEASURED.includes(id) ? nothing(GIVEN_BACK) : SECTIONS[id](run, wish)),
    })),
    paper: wish.paper,
  }
}
