/**
 * The fleet as its operator handles it: a private site set up by hand, a run with its hosts, machines kept warm, a
 * stray, an invitation, a guard rail.
 */
import { start } from './hands'
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'

const house = ownHouse({ history: false })
test.describe.configure({ mode: 'serial' })

const { call } = house
const row = (page: Page, name: string) =>
  page.getByRole('row').filter({ has: page.getByRole('textbox', { name: `name of ${name}` }) })

test('hosts of a site are tried; rows are pasted, and one that fails says at which step and what to do', async ({
  page,
}) => {
  await page.goto(`${house.url}/fleet/hosts`)
  // Starting the house and the browser leaves a computer of two cores less than half idle: then they are tried again.
  await expect(async () => {
    await page.keyboard.press('y')
    await expect(page.getByText('2 of 3 hosts are fit and free to be used.')).toBeVisible({ timeout: 10_000 })
  }).toPass({ timeout: 60_000 })
  const port = await page.getByRole('textbox', { name: 'port of ovk-a' }).inputValue()
  await page.getByRole('textbox', { name: 'name of ovk-a' }).focus()
  await page.evaluate((text) => {
    const data = new DataTransfer()
    data.setData('text/plain', text)
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
    )
  }, `name\taddress\tport\tuser\novk-d\t127.0.0.1\t1\t\novk-e\t127.0.0.1\t${port}\tguest`)
  await expect(page.getByRole('textbox', { name: 'name of ovk-e' })).toBeVisible()
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText(/reach: 127\.0\.0\.1:1 is not reached/)).toBeVisible({ timeout: 20_000 })
  await expect(page.getByText(/sign in: 127\.0\.0\.1:\d+ does not let guest in/)).toBeVisible({ timeout: 20_000 })
  await expect(page.getByText('authorized_keys')).toBeVisible()
  // Rubbish is refused with its row, and nothing is lost.
  await page.getByRole('textbox', { name: 'name of ovk-a' }).focus()
  await page.evaluate(() => {
    const data = new DataTransfer()
    data.setData('text/plain', 'name,address,port\nx,h,99999')
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
    )
  })
  await expect(page.getByText('Row 2: “99999” is no port.')).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'name of ovk-e' })).toBeVisible()
  for (const name of ['ovk-d', 'ovk-e']) await row(page, name).getByRole('button', { name: /^Take/ }).click()
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText('2 of 3 hosts are fit and free to be used.')).toBeVisible()
})

test('a command runs on chosen hosts, and tells each one’s exit code', async ({ page }) => {
  await page.goto(`${house.url}/fleet/hosts`)
  for (const name of ['ovk-a', 'ovk-b']) await page.getByRole('checkbox', { name: `Choose ${name}` }).check()
  await page.getByRole('textbox', { name: 'Command' }).fill('echo from $HOME; exit 4')
  await page.keyboard.press('Enter')
  await expect(page.getByText('exit code 4')).toHaveCount(2, { timeout: 20_000 })
  await expect(page.getByText(/from .*ovk-a\/home/)).toBeVisible()
  await expect(page.getByRole('link', { name: 'All as one file' })).toHaveAttribute(
    'href',
    /\/api\/hosts\/commands\/\d+/,
  )
})

test('a run takes cloud and hosts, keeps them warm; the roll is called by hand, a lease extended, all released', async ({
  page,
}) => {
  test.setTimeout(180_000)
  // The demo's plan, shorter.
  const { plan } = await call<{ plan: { groups: { profile: { segments: { to: number, overMs: number }[] } }[] } }>(
    'plans/campus-and-cloud',
  )
  for (const g of plan.groups) for (const s of g.profile.segments) s.overMs = Math.min(s.overMs, 5000)
  await call('plans/campus-and-cloud', 'PUT', { onVersion: 1, plan })
  await page.goto(`${house.url}/plans/campus-and-cloud`)
  await page.getByText('nothing in the way').waitFor()
  await start(page)
  await expect(page.getByText(/of 3 machines are there/)).toBeVisible({ timeout: 20_000 })
  await expect
    .poll(async () => (await call<{ line: { state: string } }>('runs/1')).line.state, { timeout: 90_000 })
    .toBe('settled')
  await page.goto(`${house.url}/fleet`)
  await expect(page.getByRole('button', { name: /OVK-1 kept/ })).toBeVisible({ timeout: 20_000 })
  await page.getByRole('link', { name: 'Roll call' }).click()
  await page.getByRole('button', { name: /Call the roll of 3/ }).click()
  await expect(page.getByRole('row').filter({ hasText: 'OVK-1' }).getByText('over SSH')).toBeVisible({
    timeout: 20_000,
  })
  await expect(page.getByRole('row').filter({ hasText: 'REY-1' }).getByText('→ 200')).toBeVisible()
  await page.getByRole('row').filter({ hasText: 'OVK-1' }).getByRole('link').first().click()
  const lease = page.getByText(/its lease ends .* extended by hand/)
  await page.getByRole('button', { name: '15 min longer' }).click()
  await expect(lease).toBeVisible()
  await page.getByRole('button', { name: 'Release…' }).click()
  await page.getByRole('button', { name: 'Release 3' }).click()
  await expect(page.getByText('Nothing is out')).toBeVisible({ timeout: 40_000 })
  await expect(page.getByText('What its generator wrote')).toBeVisible()
})

test('a stray is shown in brick on every screen, and released', async ({ page }) => {
  await house.forgetMachine()
  await page.goto(house.url)
  await page.getByRole('link', { name: /stray/ }).click({ timeout: 20_000 })
  const lane = page.getByRole('region', { name: 'Strays' })
  await expect(lane.getByText(/a machine in osaki/)).toBeVisible({ timeout: 20_000 })
  await lane.getByRole('button', { name: 'Release it' }).first().click()
  await expect(lane).toBeHidden({ timeout: 30_000 })
})

test('an invitation is shown once, in three forms, and can be withdrawn', async ({ page }) => {
  await page.goto(`${house.url}/fleet/ways`)
  await page.getByRole('button', { name: 'Invite one' }).click()
  await expect(page.getByText(/VORNAK_TOKEN_FILE=token/)).toBeVisible()
  await page.getByRole('button', { name: 'Cloud-init user data' }).click()
  await expect(page.getByText(/#cloud-config/)).toBeVisible()
  await page.getByRole('button', { name: 'Withdraw' }).click()
  await expect(page.getByText(/#cloud-config/)).toBeHidden()
  // An account whose provider does not know the key is not saved, and what was typed stays.
  await page.getByRole('button', { name: /New account/ }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Other')
  await page.getByLabel('Address of the provider’s API').fill(house.cloud)
  await page.getByRole('textbox', { name: 'Key' }).fill('wrong')
  await page.getByRole('button', { name: 'Check and save' }).click()
  await expect(page.getByText(/refuses the key of this account/)).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Other')
})

test('a guard rail refuses: the plan says so and does not start', async ({ page }) => {
  await page.goto(`${house.url}/fleet/costs`)
  await page.getByLabel('Machines out at once, at most').fill('2')
  await page.getByLabel('Machines out at once, at most').press('Tab')
  await expect.poll(async () => (await call<{ mostMachines: number }>('rails')).mostMachines).toBe(2)
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await expect(page.getByText('The plan takes 6 machines; 2 are the most allowed.')).toBeVisible()
  await page.keyboard.press('s')
  await expect(page).toHaveURL(/\/plans\//)
})
