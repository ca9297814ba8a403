/** Who comes in: open to this computer at first, closed by the first person; sign-in, roles, tokens, the trail. */
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'
import { findings } from './findings'
import { choose } from './hands'

const house = ownHouse({ history: false })
test.describe.configure({ mode: 'serial' })

const WORDS = 'four yellow boats at dawn'
const OTHER_WORDS = 'seven green hats on a hill'

async function signIn(page: Page, name: string, password: string): Promise<void> {
  await page.getByLabel('Name').fill(name)
  await page.getByLabel('Password').fill(password)
  await page.keyboard.press('Enter')
}

test('the meter says that it is open, and leads to the first person; another tab has to sign in then', async ({
  page,
  browser,
}) => {
  const other = await (await browser.newContext()).newPage()
  await other.goto(`${house.url}/plans/enrolment-morning`)
  await page.goto(house.url)
  await page.getByRole('link', { name: /Open to this computer/ }).click()
  await page.getByRole('button', { name: 'Make the first person' }).click()
  await page.getByLabel('Name').fill('Ingrid')
  await page.getByLabel('Password').fill('too short')
  await page.keyboard.press('Enter')
  await expect(page.getByText('The password has 9 letters; 15 are the least.')).toBeVisible()
  await page.getByLabel('Password').fill(WORDS)
  await page.keyboard.press('Enter')
  await expect(page.getByText('Signed in as Ingrid.', { exact: true })).toBeVisible()
  await expect(page.getByRole('link', { name: /Open to this computer/ })).toBeHidden()
  await expect(page.getByRole('row').filter({ hasText: 'Ingrid' })).toContainText('keeper')

  await expect(other.getByRole('button', { name: 'Sign in' })).toBeVisible()
  expect(await findings(other, 'light')).toEqual([])
  await signIn(other, 'ingrid', 'wrong wrong wrong')
  await expect(other.getByText('Name and password do not belong together.')).toBeVisible()
  await expect(other.getByLabel('Password')).toBeFocused()
  await other.keyboard.type(WORDS)
  await other.keyboard.press('Enter')
  // Where they were before.
  await expect(other).toHaveURL(`${house.url}/plans/enrolment-morning`)
  await other.getByText('nothing in the way').waitFor()
  await other.context().close()
})

test('anyone who comes signs in; a viewer is told what they may not, and what they see goes on', async ({ page }) => {
  await page.goto(`${house.url}/plans`)
  await signIn(page, 'Ingrid', WORDS)
  await expect(page).toHaveURL(`${house.url}/plans`)
  await page.getByRole('link', { name: 'Ingrid' }).first().click()
  await page.getByRole('link', { name: 'People' }).click()
  await page.getByRole('row').filter({ hasText: 'Ingrid' }).waitFor()
  await page.keyboard.press('n')
  await page.getByLabel('Name').waitFor()
  expect(await findings(page, 'light')).toEqual([])
  await page.getByLabel('Name').fill('Vera')
  await choose(page.getByLabel('May'), /^viewer/)
  await page.getByLabel('Password').fill(OTHER_WORDS)
  await page.getByRole('button', { name: 'Let in', exact: true }).click()
  await expect(page.getByText('Vera can sign in.', { exact: true })).toBeVisible()

  await page.getByRole('link', { name: 'Ingrid' }).first().click()
  await page.getByRole('button', { name: 'Sign out', exact: true }).click()
  await signIn(page, 'Vera', OTHER_WORDS)
  await expect(page.getByText('you see, you change nothing')).toBeVisible()
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByText('nothing in the way').waitFor()
  // What would be refused is greyed, says whose it is, and is offered neither by key nor in the palette.
  const begin = page.getByRole('button', { name: /^Start/ })
  await expect(begin).toBeDisabled()
  await expect(begin).toHaveAttribute('title', 'An operator’s: a keeper gives the role.')
  await page.keyboard.press('s')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('Control+k')
  await page.getByRole('dialog').getByRole('option').first().waitFor()
  await expect(page.getByRole('option', { name: 'Versions' })).toBeVisible()
  await expect(page.getByRole('option', { name: /^Start/ })).toHaveCount(0)
  await page.keyboard.press('Escape')
  expect(await findings(page, 'light')).toEqual([])
  // The server decides all the same.
  const refused = await page.evaluate(async () => {
    const asked = { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' }
    const answer = await fetch('/api/plans/enrolment-morning/start', asked)
    return [answer.status, ((await answer.json()) as { sentence: string }).sentence] as const
  })
  expect(refused).toEqual([403, 'It takes a person with the role operator to do this.'])
  await page.goto(`${house.url}/people`)
  await expect(page.getByText('It takes a person with the role keeper to do this.')).toBeVisible()
  await expect(page.getByRole('button', { name: /Let somebody in/ })).toBeHidden()
})

test('a token is shown once, works from outside, and is taken back; the trail has it all', async ({ page }) => {
  await page.goto(`${house.url}/people/me`)
  await signIn(page, 'Ingrid', WORDS)
  await page.getByLabel('What it is for').fill('nightly run')
  await page.getByRole('button', { name: 'Make a token' }).click()
  const token = await page.locator('pre').innerText()
  expect(await findings(page, 'light')).toEqual([])
  const ask = () => fetch(`${house.url}/api/plans`, { headers: { authorization: `Bearer ${token}` } })
  expect((await ask()).status).toBe(200)
  await page.reload()
  await expect(page.locator('pre')).toBeHidden()
  await expect(page.getByRole('row').filter({ hasText: 'nightly run' })).toContainText('just now')
  await page.getByRole('button', { name: 'Take back' }).click()
  await page.getByRole('button', { name: /Press again/ }).click()
  await expect(page.getByText('nightly run')).toBeHidden()
  expect((await ask()).status).toBe(401)

  await page.getByRole('link', { name: 'Trail' }).click()
  await expect(page.getByRole('row').filter({ hasText: 'Takes a token of one’s own back' })).toContainText('nightly run')
  await expect(page.getByRole('row').filter({ hasText: 'Vera' }).filter({ hasText: 'refused: role' })).toHaveCount(1)
  await expect(page.getByRole('row').filter({ hasText: 'refused: password' }).first()).toContainText('ingrid')
})

test('signed out somewhere else, the screen says so at once', async ({ page, browser }) => {
  await page.goto(`${house.url}/fleet`)
  await signIn(page, 'Ingrid', WORDS)
  await expect(page.getByText('Nothing is out')).toBeVisible()
  const other = await (await browser.newContext()).newPage()
  await other.goto(`${house.url}/people/me`)
  await signIn(other, 'Ingrid', WORDS)
  const signOut = other.getByRole('button', { name: 'Sign out there' })
  await signOut.first().waitFor()
  for (let left = await signOut.count(); left > 0; left--) {
    await signOut.first().click()
    await expect(signOut).toHaveCount(left - 1)
  }
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible()
  await other.context().close()
})
