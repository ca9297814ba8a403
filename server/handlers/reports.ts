import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type ReportOperation
  = | 'report'
    | 'setReport'
    | 'reportHtml'
    | 'reportPdf'
    | 'reportMarkdown'
    | 'saveReportTemplate'
    | 'removeReportTemplate'

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
  saveReportTemplate: ({ template }, kept) => done(reportsOf().saveTemplate({ name: template, ...kept })),
  removeReportTemplate: ({ template }) => done(reportsOf().removeTemplate(template)),
}
