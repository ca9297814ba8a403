import { defineConfig } from '@playwright/test'
// @ts-expect-error a plain script of the repository
import { CHROMIUM } from './scripts/ground.mjs'

/** They hold times against expected ones, and want the computer for themselves. */
const MEASURING = ['capacity-refined.spec.ts', 'fleet-of-many.spec.ts', 'live-page.spec.ts', 'quick.spec.ts']

// What the API answers to the pages is held against what it says it answers.
process.env.VORNAK_CHECK_ANSWERS = '1'

/** The real interface in Debian's Chromium, against a whole house of real processes. */
export default defineConfig({
  testDir: 'tests/browser',
  projects: [
    { name: 'waiting', testIgnore: MEASURING },
    { name: 'measuring', testMatch: MEASURING },
  ],
  workers: 1,
  forbidOnly: true,
  retries: 0,
  timeout: 300_000,
  // Long enough for a computer whose neighbours take its CPU; what is held to a time says so itself.
  expect: { timeout: 15_000 },
  reporter: [['list'], ['json']],
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 40_000,
    launchOptions: {
      executablePath: CHROMIUM as string,
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
