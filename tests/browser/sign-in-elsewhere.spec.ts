/** Signing in with another service: a real OpenID provider, of a certified library, on 127.0.0.1. */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { freePort } from '../../scripts/ports.cjs'
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'

let provider: ChildProcess
let issuer: string
const folder = mkdtempSync(join(tmpdir(), 'vornak-openid-'))

const house = ownHouse({
  history: false,
  async env(url) {
    const port = await freePort()
    issuer = `http://127.0.0.1:${port}`
    writeFileSync(join(folder, 'secret'), 'made-up-for-tests\n')
    const program = fileURLToPath(new URL('../build/openid-provider.mjs', import.meta.url))
    provider = spawn(
      process.execPath,
      [program, String(port), `${url}/api/me/elsewhere/back`, 'vornak', 'made-up-for-tests'],
      { stdio: ['ignore', 'ignore', 'ignore'] },
    )
    return {
      VORNAK_OIDC: issuer,
      VORNAK_OIDC_CLIENT: 'vornak',
      VORNAK_OIDC_SECRET_FILE: join(folder, 'secret'),
      VORNAK_OIDC_NAME: 'the university',
      VORNAK_OIDC_SCOPE: 'openid profile groups',
      VORNAK_OIDC_ROLES: 'groups:team=operator,leads=keeper',
    }
  },
})
test.beforeAll(() =>
  expect.poll(() => fetch(`${issuer}/.well-known/openid-configuration`).then(a => a.ok, () => false)).toBe(true))
test.afterAll(() => {
  provider?.kill()
  rmSync(folder, { recursive: true, force: true })
})
test.describe.configure({ mode: 'serial' })

async function vouchFor(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name: 'Sign in with the university' }).click()
  await page.locator('input[name=login]').fill(name)
  await page.locator('input[name=password]').fill('anything')
  await page.locator('button[type=submit]').click()
  // What it asks beside: whether Vornak may know who they are.
  await page.getByRole('button', { name: 'Continue' }).click()
}

test('nobody is let in unasked; who is vouched for gets in, to where they wanted, with their role', async ({ page }) => {
  expect((await fetch(`${house.url}/api/plans`)).status).toBe(401)
  await page.goto(`${house.url}/plans`)
  await vouchFor(page, 'Ingrid-leads-team')
  await expect(page).toHaveURL(`${house.url}/plans`)
  await page.getByRole('link', { name: 'Ingrid' }).click()
  await page.getByRole('link', { name: 'People' }).click()
  const row = page.getByRole('row').filter({ hasText: 'Ingrid' })
  await expect(row).toContainText('keeper')
  await expect(row).toContainText('elsewhere')
  const cookies = await page.context().cookies()
  expect(cookies.find(c => /^vornak-[0-9a-f]{6}$/.test(c.name))).toMatchObject({ httpOnly: true, sameSite: 'Lax' })
})

test('another role elsewhere is another role here; no role is no way in, and says why', async ({ page, browser }) => {
  await page.goto(house.url)
  await vouchFor(page, 'Oskar-team')
  await page.getByRole('link', { name: 'Oskar' }).click()
  await expect(page.getByText('operator: plans and runs')).toBeVisible()
  const other = await (await browser.newContext()).newPage()
  await other.goto(house.url)
  await vouchFor(other, 'Vera-kitchen')
  await expect(other.getByText('vouches for you, but for no role here')).toBeVisible()
  await expect(other).toHaveURL(/\/sign-in/)
  expect((await other.context().cookies()).find(c => /^vornak-[0-9a-f]{6}$/.test(c.name))).toBeUndefined()
  await other.context().close()
})

test('one who comes back with what another began, or twice, or denied, gets nothing', async ({ page, browser }) => {
  await page.goto(`${house.url}/sign-in`)
  const begun = await page.request.get(`${house.url}/api/me/elsewhere`, { maxRedirects: 0 })
  expect(begun.status()).toBe(303)
  const going = new URL(begun.headers().location!)
  expect(Object.fromEntries(going.searchParams)).toMatchObject({ code_challenge_method: 'S256', response_type: 'code' })
  const state = going.searchParams.get('state')
  const back = `${house.url}/api/me/elsewhere/back`
  // Another browser, made to follow the link of somebody who signed in with their own name.
  const other = await (await browser.newContext()).newPage()
  await other.goto(`${back}?code=x&state=${state}`)
  await expect(other.getByText('It was begun in another browser')).toBeVisible()
  await other.context().close()
  await page.goto(`${back}?error=access_denied&state=${state}&iss=${encodeURIComponent(issuer)}`)
  await expect(page.getByText('Signing in there did not work')).toBeVisible()
  await page.goto(`${back}?code=x&state=${state}`)
  await expect(page.getByText('It was begun in another browser')).toBeVisible()
  // A link to it leads nobody elsewhere.
  await page.goto(`${house.url}/sign-in?to=https://evil.test/`)
  const link = await page.getByRole('link', { name: 'Sign in with the university' }).getAttribute('href')
  expect(link).not.toContain('evil')
  provider.kill()
  await page.goto(`${house.url}/sign-in`)
  await expect(page.getByLabel('Name')).toBeVisible()
})
