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

/** A page and then a dialog take seconds each; beside a test that sends real load, five times as long. */
const LONG_MS = 900_000

/** What axe finds in the light, and then in the dark, without loading the page again. */
async function inBothThemes(page: Page, where: string): Promise<string[]> {
  const light = await findings(page, 'light')
  await page.evaluate(async () => {
    // What the application itself turns its themes with.
    const { addColorScheme, removeColorScheme } = (window as unknown as {
      __NUXT_COLOR_MODE__: Record<'addColorScheme' | 'removeColorScheme', (theme: string) => void>
    }).__NUXT_COLOR_MODE__
    removeColorScheme('light')
    addColorScheme('dark')
    // Colours change at once but for what is animated; an animation that stands still never ends.
    await new Promise(r => setTimeout(r, 400))
  })
  await expect(page.locator('html')).toHaveClass(/dark/)
  return [...light, ...(await findings(page, 'dark'))].map(f => `${where} ${f}`)
}

test('axe finds nothing on any dialog, in either theme', async ({ page }) => {
  test.setTimeout(LONG_MS)
  await page.addInitScript(() => localStorage.setItem('nuxt-color-mode', 'light'))
  const found: string[] = []
  for (const [path, there, open] of DIALOGS) {
    await page.goto(house.url + path)
    await page.getByText(there).first().waitFor()
    await open(page)
    await page.locator('[role=dialog], .beside').first().waitFor()
    found.push(...(await inBothThemes(page, `${path} opened`)))
  }
  expect([...new Set(found)]).toEqual([])
})

test('axe finds nothing on any page, in either theme; enlarged to 200 %, none is wider than its window, and the screen itself is one stop away (WCAG 2.2, 1.4.10, 2.4.1)', async ({
  page,
}) => {
  test.setTimeout(LONG_MS)
  await page.addInitScript(() => localStorage.setItem('nuxt-color-mode', 'light'))
  const found: string[] = []
  const wide: string[] = []
  for (const [path, there] of PAGES) {
    await page.setViewportSize({ width: 1280, height: 800 })
    await page.goto(house.url + path)
    await page.getByText(there).first().waitFor()
    found.push(...(await inBothThemes(page, path)))
    await page.setViewportSize({ width: 640, height: 400 })
    const widest = () => page.evaluate(() => document.documentElement.scrollWidth)
    await expect.poll(widest).toBeLessThanOrEqual(640).catch(async () => wide.push(`${path}: ${await widest()}`))
  }
  expect([...new Set(found)]).toEqual([])
  expect(wide).toEqual([])
  await page.keyboard.press('Tab')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('main')).toBeFocused()
})
