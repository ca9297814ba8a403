import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'
import { comparedRuns } from './runs'

type ReportOperation
  = | 'report'
    | 'setReport'
    | 'reportHtml'
    | 'reportPdf'
    | 'reportMarkdown'
    | 'compareHtml'
    | 'comparePdf'
    | 'compareMarkdown'
    | 'saveReportTemplate'
    | 'removeReportTemplate'

const namedRuns = (wish: { runs: string }) => comparedRuns(wish).runs.join('-')
const reportsOf = () => coordinator().reports

export const reports: Handlers<ReportOperation> = {
  report: ({ run }) => reportsOf().view(run),
  setReport: ({ run }, { wish }) => done(reportsOf().setWish(run, wish)),
  reportHtml: async ({ run, template }) => ({
    content: await reportsOf().print(run, 'html', template),
    name: `run-${run}-report.html`,
  }),
  reportPdf: async ({ run, template }) => ({
    content: await reportsOf().print(run, 'pdf', template),
    name: `run-${run}-report.pdf`,
  }),
  reportMarkdown: async ({ run, template }) => ({
    content: await reportsOf().print(run, 'markdown', template),
    name: `run-${run}-report.md`,
  }),
  compareHtml: async ({ paper = 'A4', ...wish }) => ({
    content: await reportsOf().printComparison(comparedRuns(wish), 'html', paper),
    name: `runs-${namedRuns(wish)}-compared.html`,
  }),
  comparePdf: async ({ paper = 'A4', ...wish }) => ({
    content: await reportsOf().printComparison(comparedRuns(wish), 'pdf', paper),
    name: `runs-${namedRuns(wish)}-compared.pdf`,
  }),
  compareMarkdown: async wish => ({
    content: await reportsOf().printComparison(comparedRuns(wish), 'markdown', 'A4'),
    name: `runs-${namedRuns(wish)}-compared.md`,
  }),
  saveReportTemplate: ({ template }, kept) => done(reportsOf().saveTemplate({ name: template, ...kept })),
  removeReportTemplate: ({ template }) => done(reportsOf().removeTemplate(template)),
}
