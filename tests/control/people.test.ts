/** Who may come in: passwords, sessions, tokens, the last keeper, and how often one may try. */
import type { Clock } from '../../control/clock'
import type { ControlError } from '../../control/errors'
import { HERE, type Visit } from '../../control/people/caller'
import { hashed, isPassword } from '../../control/people/passwords'
import { People } from '../../control/people/people'
import { Trail } from '../../control/people/trail'
import { openStore } from '../../control/store/open'
import { peopleStore } from '../../control/store/people'
import { trailStore } from '../../control/store/trail'

const WORDS = 'four yellow boats at dawn'
const OTHER_WORDS = 'seven green hats on a hill'
const HOUR = 3_600_000
const visit = (cookie?: string, authorization?: string): Visit => ({
  cookie: cookie && `other=1; vornak=${cookie}`,
  authorization,
  from: '192.0.2.7',
  browser: 'a browser',
})

function place() {
  const clock = { at: 1_700_000_000_000, now: () => clock.at }
  const store = openStore(':memory:')
  const table = peopleStore(store)
  const people = new People(table, clock as unknown as Clock)
  const trail = new Trail(trailStore(store), clock as unknown as Clock)
  const known = (secret: string) => people.callerOf(visit(secret))?.name
  return { clock, store, table, people, trail, known }
}
const code = (act: () => unknown): string => {
  try {
    act()
    return 'none'
  }
  catch (error) {
    return (error as ControlError).code
  }
}
const codeOf = (act: Promise<unknown>) => act.then(() => 'none', (error: ControlError) => error.code)

describe('a password', () => {
  it('is hashed by Argon2id as OWASP asks (Password Storage Cheat Sheet: 19 MiB, 2, 1), each time anew', async () => {
    const [one, two] = [await hashed(WORDS), await hashed(WORDS)]
    // The PHC string format names function, version and cost.
    expect(one).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$[A-Za-z0-9+/]{22}\$[A-Za-z0-9+/]{43}$/)
    expect(one).not.toBe(two)
    expect(await isPassword(one, WORDS)).toBe(true)
    expect(await isPassword(one, `${WORDS}.`)).toBe(false)
    expect(await isPassword(undefined, 'nobody')).toBe(false)
  })

  it('is the same however its letters were typed (Unicode NFKC)', async () => {
    expect(await isPassword(await hashed('caf\u00e9 in the morning'), 'cafe\u0301 in the morning')).toBe(true)
  })

  it('of an unknown name takes as long to refuse as a wrong one', async () => {
    const { people } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    const timed = async (name: string) => {
      const times = []
      for (let i = 0; i < 3; i++) {
        const from = performance.now()
        await codeOf(people.signIn(name, OTHER_WORDS, visit()))
        times.push(performance.now() - from)
      }
      return times.sort((a, b) => a - b)[1]!
    }
    await timed('Ingrid')
    expect((await timed('Nobody')) / (await timed('ingrid'))).toBeGreaterThan(0.3)
  })
})

describe('the first person', () => {
  it('closes what was open to this computer, must be a keeper, and needs a password of some length', async () => {
    const { people } = place()
    expect(people.callerOf(visit())).toBe(HERE)
    expect(people.me(HERE)).toEqual({ open: true })
    expect(await codeOf(people.add({ name: 'Oskar', role: 'operator', password: WORDS }))).toBe('person')
    expect(await codeOf(people.add({ name: 'Ingrid', role: 'keeper', password: 'yellow boats' }))).toBe('password')
    expect(await codeOf(people.add({ name: 'Ingrid', role: 'keeper', password: 'INGRID is a good name' }))).toBe('password')
    expect(await codeOf(people.add({ name: 'Ingrid', role: 'keeper', password: 'a'.repeat(40) }))).toBe('password')
    expect(people.isOpen).toBe(true)
    const told: string[] = []
    people.onLeave = (isGone) => {
      if (isGone(HERE)) told.push('here')
    }
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    expect(people.isOpen).toBe(false)
    expect(people.callerOf(visit())).toBeUndefined()
    expect(told).toEqual(['here'])
    expect(await codeOf(people.add({ name: 'INGRID', role: 'viewer', password: OTHER_WORDS }))).toBe('person')
  })

  it('is one, however many ask at once', async () => {
    const { people } = place()
    const asked = ['Ingrid', 'Oskar', 'Vera'].map(name => codeOf(people.add({ name, role: 'keeper', password: WORDS })))
    expect((await Promise.all(asked)).sort()).toEqual(['none', 'person', 'person'])
    expect(people.list()).toHaveLength(1)
  })
})

describe('a session', () => {
  it('is known by its cookie, until nobody came for 12 hours, or 7 days', async () => {
    const { people, clock, known, store } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    const { secret } = await people.signIn('ingrid', WORDS, visit())
    expect(known(secret)).toBe('Ingrid')
    expect(known(`${secret}x`)).toBeUndefined()
    expect(JSON.stringify(store.prepare('SELECT * FROM sessions').all())).not.toContain(secret)
    for (let h = 0; h < 7 * 24; h += 11) {
      expect(known(secret)).toBe('Ingrid')
      clock.at += 11 * HOUR
    }
    expect(known(secret)).toBeUndefined()
    const { secret: later } = await people.signIn('Ingrid', WORDS, visit())
    clock.at += 12 * HOUR + 1
    expect(known(later)).toBeUndefined()
  })

  it('ends when its person ends it, sets another password, or is let in no more', async () => {
    const { people, known } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    const oskar = await people.add({ name: 'Oskar', role: 'operator', password: OTHER_WORDS })
    const [a, b, c] = [
      await people.signIn('Oskar', OTHER_WORDS, visit()),
      await people.signIn('Oskar', OTHER_WORDS, visit()),
      await people.signIn('Oskar', OTHER_WORDS, visit()),
    ]
    const gone: number[] = []
    people.onLeave = (isGone) => {
      for (const { caller } of [a, b, c]) if (isGone(caller)) gone.push(caller.sessionId!)
    }
    people.sessions.end(oskar.id, a.caller.sessionId!)
    expect([known(a.secret), known(b.secret)]).toEqual([undefined, 'Oskar'])
    expect(gone).toEqual([a.caller.sessionId])
    expect(code(() => people.sessions.end(oskar.id, a.caller.sessionId!))).toBe('not-found')
    expect(code(() => people.sessions.end(1, b.caller.sessionId!))).toBe('not-found')

    expect(await codeOf(people.setPassword(b.caller, 'is not it', WORDS, '192.0.2.7'))).toBe('password')
    await people.setPassword(b.caller, OTHER_WORDS, 'nine wet stones by a road', '192.0.2.7')
    expect([known(b.secret), known(c.secret)]).toEqual(['Oskar', undefined])
    expect(await codeOf(people.signIn('Oskar', OTHER_WORDS, visit()))).toBe('password')

    people.change(oskar.id, { role: 'operator', isIn: false })
    expect(known(b.secret)).toBeUndefined()
    expect(await codeOf(people.signIn('Oskar', 'nine wet stones by a road', visit()))).toBe('password')
    people.change(oskar.id, { role: 'viewer', isIn: true })
    expect((await people.signIn('Oskar', 'nine wet stones by a road', visit())).caller.role).toBe('viewer')
  })

  it('is not let through by whatever else stands in the header', async () => {
    const { people } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    for (const cookie of ['', 'vornak=', 'vornak', '=;=', `vornak=${'x'.repeat(9000)}`, 'vornak=%E0%A4%A'])
      expect(people.callerOf({ cookie, authorization: undefined })).toBeUndefined()
    for (const authorization of ['Bearer', 'Bearer ', 'Basic eDp5', 'Bearer a b', `Bearer ${'x'.repeat(900)}`])
      expect(people.callerOf({ cookie: undefined, authorization })).toBeUndefined()
  })
})

describe('an API token', () => {
  it('does what its role and its person may, until it ends or is taken back', async () => {
    const { people, clock, store } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    const oskar = await people.add({ name: 'Oskar', role: 'operator', password: OTHER_WORDS })
    expect(code(() => people.tokens.make(oskar, { name: 'x', role: 'keeper', days: 1 }))).toBe('role')
    const token = people.tokens.make(oskar, { name: 'nightly', role: 'operator', days: 2 })
    const who = () => people.callerOf(visit(undefined, `Bearer ${token}`))
    expect(who()).toMatchObject({ bearer: 'token', role: 'operator', name: 'Oskar, by nightly' })
    expect(JSON.stringify(store.prepare('SELECT * FROM api_tokens').all())).not.toContain(token)
    expect(people.tokens.of(oskar.id)[0]!.usedAt).toBe(clock.at)
    people.change(oskar.id, { role: 'viewer', isIn: true })
    expect(who()?.role).toBe('viewer')
    // What only a person may, a token may not.
    expect(code(() => people.personOf(who()))).toBe('role')
    clock.at += 48 * HOUR
    expect(who()).toBeUndefined()
    const second = people.tokens.make({ ...oskar, role: 'viewer' }, { name: 'b', role: 'viewer', days: 2 })
    people.tokens.end(oskar.id, people.tokens.of(oskar.id)[1]!.id)
    expect(people.callerOf(visit(undefined, `bearer ${second}`))).toBeUndefined()
  })
})

describe('the last keeper', () => {
  it('stays one until there is another', async () => {
    const { people } = place()
    const ingrid = await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    expect(code(() => people.change(ingrid.id, { role: 'viewer', isIn: true }))).toBe('last-keeper')
    expect(code(() => people.change(ingrid.id, { role: 'keeper', isIn: false }))).toBe('last-keeper')
    await people.add({ name: 'Oskar', role: 'keeper', password: OTHER_WORDS })
    people.change(ingrid.id, { role: 'viewer', isIn: true })
    expect(people.list().map(p => [p.name, p.role])).toEqual([['Ingrid', 'viewer'], ['Oskar', 'keeper']])
  })
})

describe('wrong passwords', () => {
  it('are few for a name, also when many are tried at once, and more from an address', async () => {
    const { people } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    const tried = await Promise.all(
      Array.from({ length: 12 }, () => codeOf(people.signIn('Ingrid', OTHER_WORDS, visit()))),
    )
    expect(tried.filter(c => c === 'password')).toHaveLength(8)
    expect(tried.filter(c => c === 'too-often')).toHaveLength(4)
    // The right one neither, while it lasts; another name from there still may.
    expect(await codeOf(people.signIn('INGRID', WORDS, visit()))).toBe('too-often')
    expect(await codeOf(people.signIn('Oskar', WORDS, visit()))).toBe('password')
    const names = Array.from({ length: 40 }, (_, i) => codeOf(people.signIn(`n${i}`, WORDS, visit())))
    expect((await Promise.all(names)).at(-1)).toBe('too-often')
  })

  it('do not stand against one who then knows it', async () => {
    const { people } = place()
    await people.add({ name: 'Ingrid', role: 'keeper', password: WORDS })
    for (let i = 0; i < 20; i++) {
      if (i % 5 < 4) await codeOf(people.signIn('Ingrid', OTHER_WORDS, visit()))
      else expect(await codeOf(people.signIn('Ingrid', WORDS, visit()))).toBe('none')
    }
  })
})

describe('the trail', () => {
  it('is told in pages, the latest first', () => {
    const { trail, clock } = place()
    for (let i = 0; i < 250; i++) {
      clock.at++
      trail.write(HERE, '127.0.0.1', { act: 'savePlan', about: `p${i}`, outcome: i % 2 ? 'done' : 'saved-meanwhile' })
    }
    const first = trail.view()
    expect(first.entries).toHaveLength(200)
    expect(first.more).toBe(true)
    expect(first.entries[0]).toMatchObject({ about: 'p249', who: 'this computer', says: 'Saves a plan as its next version.' })
    const second = trail.view(first.entries.at(-1)!.id)
    expect(second.entries.map(e => e.about)).toEqual(Array.from({ length: 50 }, (_, i) => `p${49 - i}`))
    expect(second.more).toBe(false)
  })
})
