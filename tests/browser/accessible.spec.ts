/**
 * Every page, in both themes, and the dialogs it opens, held to WCAG 2.2 AA by axe-core (https://github.com/dequelabs/axe-core):
 * what a rule can find. What it cannot, the tasks by keyboard alone hold.
 */
import { findings } from './findings'
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'

const house = ownHouse()

/** Addresses, and what tells that they are there. */
const PAGES: [path: string, there: string][] = [
  ['/', 'Questions ready to ask'],
  ['/plans', 'Enrolment morning'],
  ['/plans/enrolment-morning', 'nothing in the way'],
  ['/journeys', 'Browse timetable'],
  ['/journeys/as-a-browser', 'Nothing wrong with it.'],
  ['/journeys/import/har', 'A HAR file'],
  ['/journeys/import/openapi', 'An OpenAPI document'],
  ['/journeys/import/text', 'A journey from text'],
  ['/targets', 'Enrolment portal'],
  ['/targets/enrolment-portal', 'The owner’s approval'],
  ['/feeds', 'A CSV file'],
  ['/networks', 'commuter mobile'],
  ['/clients', 'phone app'],
  ['/fleet', 'reyk'],
  ['/fleet/roll-call', 'Roll call'],
  ['/fleet/hosts', 'fit and free'],
  ['/fleet/capacity', 'What one generator carries'],
  ['/fleet/ways', 'Invite a machine'],
  ['/fleet/costs', 'Guard rails'],
  ['/people', 'From elsewhere nobody gets in'],
  ['/people/trail', 'Trail'],
  ['/people/sending', 'What was sent'],
  ['/shared#vornak-link_none', 'This link opens nothing'],
  ['/runs', 'Up to how many'],
  ['/runs/kept', 'Nothing is due'],
  ['/runs/elsewhere', 'While it is measured'],
  ['/runs/2', 'Exact figures'],
  ['/runs/compare?runs=1,2', 'What differed'],
  ['/watch/2', 'All of run 2'],
  ['/reports/1', 'Sections, after the answer'],
  ['/trends/how-far', 'Objectives, run by run'],
]
const DIALOGS: [path: string, there: string, open: (page: Page) => Promise<void>][] = [
  ['/plans', 'Enrolment morning', p => p.keyboard.press('n')],
  ['/targets', 'Enrolment portal', p => p.keyboard.press('n')],
  ['/journeys', 'Enrol', p => p.keyboard.press('n')],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.keyboard.press('s')],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.getByRole('button', { name: /^Group A/ }).click()],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.getByRole('button', { name: /^Location REY/ }).click()],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.getByRole('button', { name: 'How REY is sized' }).click()],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.keyboard.press('b')],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.keyboard.press('v')],
  ['/fleet/capacity', 'What one generator carries', p => p.getByRole('button', { name: 'Calibrate…' }).click()],
  ['/fleet/capacity', 'What one generator carries', p => p.getByRole('button', { name: 'By hand…' }).click()],
  ['/', 'Questions ready to ask', p => p.keyboard.press('?')],
  ['/', 'Questions ready to ask', p => p.keyboard.press('Control+k')],
  ['/', 'Questions ready to ask', p => p.keyboard.press('i')],
  ['/plans/enrolment-morning', 'nothing in the way', p => p.getByRole('button', { name: 'scale…' }).click()],
]

for (const theme of ['light', 'dark'] as const)
  test(`axe finds nothing on any page or dialog, ${theme}`, async ({ page }) => {
    // Beside a test that sends real load it takes five times as long as alone.
    test.setTimeout(900_000)
    await page.addInitScript(t => localStorage.setItem('nuxt-color-mode', t), theme)
    const found: string[] = []
    for (const [path, there] of PAGES) {
      await page.goto(house.url + path)
      await page.getByText(there).first().waitFor()
      found.push(...(await findings(page, theme)).map(f => `${path} ${f}`))
    }
    for (const [path, there, open] of DIALOGS) {
      await page.goto(house.url + path)
      await page.getByText(there).first().waitFor()
      await open(page)
      await page.locator('[role=dialog], .beside').first().waitFor()
      found.push(...(await findings(page, theme)).map(f => `${path} opened ${f}`))
    }
    expect([...new Set(found)]).toEqual([])
  })

test('enlarged to 200 %, no page is wider than its window, and the screen itself is one stop away (WCAG 2.2, 1.4.10, 2.4.1)', async ({
  page,
}) => {
  await page.setViewportSize({ width: 640, height: 400 })
  const wide: string[] = []
  for (const [path, there] of PAGES) {
    await page.goto(house.url + path)
    await page.getByText(there).first().waitFor()
    const width = await page.evaluate(() => document.documentElement.scrollWidth)
    if (width > 640) wide.push(`${path}: ${width}`)
  }
  expect(wide).toEqual([])
  await page.keyboard.press('Tab')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('main')).toBeFocused()
})
