/**
 * `npm run screenshots`: renews docs/screenshots/ from the demo's data, one picture per main view; `-- NAME NAME` those
 * alone, and stops after the last of them.
 */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { checkNode, CHROMIUM, installChromium, installPackages, ROOT } from './ground.mjs'

checkNode()
await installPackages()
await installChromium()
await buildPrograms()
await buildPages()
const { chromium } = await import('@playwright/test')
const { openHouse } = await import('./house.mjs')

/** Names of those that are still wanted; all, where none was named. */
const wanted = new Set(process.argv.slice(2))
const isSome = wanted.size > 0
class AllThere extends Error {}
const folder = join(ROOT, 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })
const house = await openHouse()
const browser = await chromium.launch({
  executablePath: CHROMIUM,
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
})
const pages = {}
for (const theme of ['light', 'dark']) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  await context.addInitScript(t => localStorage.setItem('nuxt-color-mode', t), theme)
  pages[theme] = await context.newPage()
}
const shoot = async (name, theme, path, ready) => {
  const page = pages[theme]
  if (path) await page.goto(house.url + path)
  await ready(page)
  // Charts draw in the frame after their data.
  await page.evaluate(() => new Promise(drawn => requestAnimationFrame(() => setTimeout(drawn, 500))))
  if (isSome && !wanted.delete(name)) return
  await page.screenshot({ path: join(folder, `${name}.png`) })
  console.log(`docs/screenshots/${name}.png`)
  if (isSome && wanted.size === 0) throw new AllThere()
}
try {
  await shoot('board', 'light', '/', p => p.getByText('Answered', { exact: true }).waitFor())
  await shoot('journey', 'light', '/journeys/as-a-browser', p => p.getByText('Nothing wrong with it.').waitFor())
  await pages.light.getByRole('button', { name: /Try with one user/ }).click()
  await shoot('try', 'light', undefined, async (p) => {
    await p.getByText('Every answer was right').waitFor({ timeout: 30_000 })
    await p.getByRole('option', { name: /Choose module/ }).click()
  })
  await shoot('target', 'light', '/targets/enrolment-portal', async (p) => {
    await p.getByRole('button', { name: 'Try', exact: true }).click()
    await p.getByText('can be read').waitFor()
    await p.getByRole('button', { name: /^Choose among/ }).scrollIntoViewIfNeeded()
  })
  await shoot('plan', 'light', '/plans/enrolment-morning', async (p) => {
    await p.locator('canvas').first().waitFor()
    // A group whose corners are handles, and the cursor at a moment of the ramp.
    await p.getByRole('gridcell', { name: /^Students commuting at TAV/ }).focus()
    await p.mouse.move(250, 200)
  })
  await shoot('networks', 'light', '/networks', async (p) => {
    await p.getByRole('button', { name: /^commuter mobile/ }).click()
    await p.mouse.move(640, 700)
  })
  // Cloud and private hosts together; kept warm afterwards, with something nobody here knows beside them.
  await shoot('hosts', 'light', '/fleet/hosts', async (p) => {
    await p.waitForTimeout(3000)
    await p.keyboard.press('y')
    await p.waitForTimeout(5000)
  })
  await fetch(`${house.url}/api/plans/campus-and-cloud/start`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{}',
  })
  while ((await (await fetch(`${house.url}/api/runs/3`)).json()).line.endedAt === undefined)
    await new Promise(r => setTimeout(r, 1000))
  await house.forgetMachine()
  await shoot('roll-call', 'dark', '/fleet/roll-call', async (p) => {
    await p.getByRole('button', { name: /Call the roll of 3/ }).click()
    await p.waitForTimeout(2500)
  })
  await pages.light.goto(`${house.url}/plans/enrolment-morning`)
  await pages.light.getByText('nothing in the way').waitFor()
  await pages.light.keyboard.press('s')
  await pages.light.getByRole('dialog').getByText(/are sent to/).waitFor()
  await pages.light.keyboard.press('Enter')
  await shoot('gathering', 'light', undefined, p =>
    p
      .getByText(/rehearsing|armed/)
      .first()
      .waitFor({ timeout: 60_000 }),
  )
  const underLoad = s => p =>
    p.waitForFunction(
      wanted => Number(/\+00:(\d\d)/.exec(document.querySelector('.clock')?.textContent ?? '')?.[1] ?? 0) >= wanted,
      s,
      { timeout: 90_000 },
    )
  await shoot('fleet', 'light', '/fleet', p => p.getByText('loading').first().waitFor({ timeout: 60_000 }))
  await shoot('run', 'light', '/runs/4', underLoad(44))
  await shoot('costs', 'light', '/fleet/costs', p => p.getByText('By run').waitFor())
  await shoot('result', 'light', '/runs/2', async (p) => {
    await p.getByRole('row').filter({ hasText: 'Timetable' }).first().waitFor()
    // A second is read, and held where it is.
    await p.mouse.move(1010, 470)
    await p.mouse.down()
    await p.mouse.up()
  })
  // Two types of machine really calibrated, one after the other: about six minutes.
  const call = async (path, method, body) =>
    await (
      await fetch(`${house.url}/api/${path}`, {
        ...(method ? { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
      })
    ).json()
  const { id } = await call('calibrations', 'POST', {
    journeys: ['enrol'],
    networks: ['direct'],
    provider: 'nimbral',
    region: 'reyk',
    types: ['brisk-1', 'brisk-2'],
    machines: 1,
    targetId: 'enrolment-portal',
    sink: true,
  })
  let batch
  do {
    await new Promise(r => setTimeout(r, 2000))
    batch = await call(`calibrations/${id}`)
  } while (batch.endedAt === undefined)
  await shoot('capacity', 'light', '/fleet/capacity', p => p.getByText('What one generator carries').waitFor())
  await shoot('calibration', 'light', `/fleet/capacity/${batch.items[0].capacityId}`, p =>
    p.locator('canvas').first().waitFor(),
  )
  await shoot('report', 'light', '/reports/2', async (p) => {
    await p.getByLabel('From', { exact: true }).fill('Ostervik University, computing centre')
    await p.getByLabel('For', { exact: true }).fill('the registrar')
    await p.frameLocator('iframe').getByText('for the registrar').waitFor()
  })
  await shoot('compare', 'dark', '/runs/compare?runs=1,4', async (p) => {
    await p.getByRole('heading', { name: 'What differed' }).waitFor()
    await p.locator('canvas').waitFor()
  })
  // A plan twenty times as heavy, where types, spares and interruptible machines matter.
  const { version, plan } = await call('plans/how-far')
  const heavy = {
    ...plan,
    name: 'The whole university',
    sizing: { spares: 1 },
    groups: plan.groups.map(g => ({
      ...g,
      profile: { ...g.profile, segments: g.profile.segments.map(s => ({ ...s, to: s.to * 20 })) },
    })),
    locations: plan.locations.map(l => ({ ...l, choose: 'cheapest', interruptible: true })),
  }
  await call('plans/how-far', 'PUT', { onVersion: version, plan: { ...heavy, assumedUsersPerVcpu: 2000 } })
  await shoot('sizing', 'light', '/plans/how-far', async (p) => {
    await p.locator('canvas').first().waitFor()
    await p.getByRole('button', { name: 'How REY is sized' }).click()
  })
  // Last: from the first person on, anyone who asks signs in.
  await shoot('people', 'light', '/people?open=person', async (p) => {
    await p.getByLabel('Name').fill('Ingrid')
    await p.getByLabel('Password').fill('four yellow boats at dawn')
    await p.getByRole('button', { name: 'Make it, and sign in' }).click()
    for (const [name, role] of [['Oskar', 'operator'], ['Vera', 'viewer']]) {
      await p.getByRole('button', { name: 'Let somebody in' }).click()
      await p.getByLabel('Name').fill(name)
      await p.getByLabel('May').click()
      await p.getByRole('option', { name: new RegExp(`^${role}`) }).click()
      await p.getByLabel('Password').fill('seven green hats on a hill')
      await p.getByRole('button', { name: 'Let in', exact: true }).click()
      await p.getByRole('row').filter({ hasText: name }).waitFor()
    }
    await p.getByRole('row').filter({ hasText: 'Oskar' }).getByRole('button', { name: 'Change' }).click()
    // What was said at the foot is gone by then.
    await p.waitForTimeout(6000)
  })
}
catch (error) {
  if (!(error instanceof AllThere)) throw error
}
finally {
  await browser.close()
  await house.close()
}
