/** What axe-core finds on a page (https://github.com/dequelabs/axe-core). */
import AxeBuilder from '@axe-core/playwright'
import type { Page } from './test'

const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']

/** What axe found, a line each: rule, element, why. */
export async function findings(page: Page, theme: 'light' | 'dark'): Promise<string[]> {
  const axe = new AxeBuilder({ page })
  // The themes differ in nothing but colours.
  if (theme === 'light') axe.withTags(RULES)
  // A sheet of paper is white in the dark, too.
  else axe.withRules(['color-contrast']).exclude('iframe')
  // Beside a panel the grid scrolls under its fixed columns, and the line over the question is cut.
  if (await page.locator('.desk.split').count()) axe.exclude('[role=grid]').exclude('.desk .head')
  const { violations } = await axe.analyze()
  return violations.flatMap(v => v.nodes.slice(0, 3).map(n => `${v.id}: ${n.target.join(' ')}: ${n.failureSummary?.split('\n')[1]?.trim()} ${n.html.slice(0, 60)}…`))
}
