/** What a location of a plan may lack: provider, region, type, machines, what is attached, and the way out of each. */
import { sizePlan } from '../../core/fleet/sizing'
import type { AttachmentSchema, RegionOffer } from '../../core/offers/machine-type'
import type { Location } from '../../core/plan/document'
import { locationProblems } from '../../core/checks/location-problems'
import { hill, journey, offers, plan } from '../build/plans'

const WANTED: AttachmentSchema = {
  type: 'object',
  required: ['network'],
  properties: {
    network: { type: 'string', title: 'Network', enum: ['open', 'peered'] },
    diskGb: { type: 'integer', title: 'Disk, GB', minimum: 8, maximum: 256, default: 10 },
    publicAddress: { type: 'boolean', title: 'Public address of its own', default: true },
  },
}

/** Problems of REY in a plan of 20 users, 12 of them there, 20 a machine. */
function found(location: Partial<Location> = {}, offer: Partial<RegionOffer> = {}, users = 20) {
  const p = plan({
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(users, 3, 6, 1) }],
    locations: plan().locations.map(l => (l.code === 'REY' ? { ...l, ...location } : l)),
  })
  const offered = offers(offer)
  const sizing = sizePlan(p, { journeys: [journey()], offers: offered, capacities: [], stale: [], billedS: 60 }).find(
    s => s.code === 'REY',
  )
  return locationProblems(p, 'REY', offered, sizing)
}
const codes = (problems: ReturnType<typeof found>) => problems.map(p => p.code)

describe('a location', () => {
  it('has nothing wrong with it where it can be had', () => {
    expect(found()).toEqual([])
  })

  it('whose provider is silent, or has no such region or type, says what there is', () => {
    expect(found({ provider: 'nobody' })).toMatchObject([
      { code: 'provider-silent', weight: 'inTheWay', location: 'REY' },
    ])
    expect(found({ region: 'atlantis' })).toMatchObject([
      { code: 'unknown-region', remedy: 'Choose one of reyk, tavira.' },
    ])
    expect(found({ machineType: 'huge-96' })).toMatchObject([
      { code: 'unknown-type', remedy: 'Choose one of brisk-1.' },
    ])
    expect(found({ elsewhere: ['tavira', 'atlantis'] })).toMatchObject([
      { code: 'unknown-region', sentence: 'REY: nimbral has no region “atlantis” to go to after a failed boot.' },
    ])
  })

  it('with too few machines, or none, is told how many, and fixed by one press', () => {
    expect(found({ machines: 0 })).toMatchObject([
      { code: 'no-machine', weight: 'inTheWay', fix: { kind: 'setMachines', location: 'REY', machines: 'auto' } },
    ])
    expect(found({ machines: 1 }, {}, 100)).toMatchObject([
      {
        code: 'few-machines',
        weight: 'costsSoundness',
        sentence: 'REY has 1 × brisk-1, 3 would be needed.',
        price: '+€0.12/h',
      },
    ])
    expect(found({}, { quota: { most: 5, used: 4 } }, 100)).toMatchObject([
      { code: 'quota', weight: 'inTheWay', sentence: 'REY needs 3 × brisk-1; 1 of 5 machines are free in reyk.' },
    ])
    // What is kept warm there need not be had anew.
    expect(found({}, { quota: { most: 5, used: 4 }, waiting: { 'brisk-1': 2 } }, 100)).toEqual([])
    expect(found({}, { selfEnrolled: true, quota: { most: 1, used: 0 } }, 100)).toMatchObject([
      { code: 'not-enrolled', weight: 'toKnow' },
    ])
  })

  it('without a machine type in stock, or at a price that may end, is good to know', () => {
    expect(codes(found({}, { noStock: ['brisk-1'] }))).toEqual(['no-stock'])
    expect(found({ interruptible: true })).toMatchObject([{ code: 'not-interruptible', weight: 'inTheWay' }])
    const cheaper = {
      types: [
        { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, interruptiblePerHour: 0.02, billingGrainS: 60 },
      ],
    }
    expect(found({ interruptible: true }, cheaper)).toMatchObject([{ code: 'interruptible', weight: 'toKnow' }])
  })

  it('where nobody is placed is given users, evenly or from the fullest, or can be taken away', () => {
    const p = plan({ placement: { A: { TAV: 10_000 } } })
    const sizing = sizePlan(p, { journeys: [journey()], offers: offers(), capacities: [], stale: [], billedS: 60 })
    expect(
      locationProblems(
        p,
        'REY',
        offers(),
        sizing.find(s => s.code === 'REY'),
      ),
    ).toMatchObject([
      {
        code: 'nobody-here',
        fix: { kind: 'spreadEvenly' },
        others: [
          { kind: 'takeFrom', from: 'TAV', to: 'REY' },
          { kind: 'removeLocation', location: 'REY' },
        ],
      },
    ])
    const cheapest = { ...p, locations: p.locations.map(l => ({ ...l, choose: 'cheapest' as const })) }
    expect(
      locationProblems(
        cheapest,
        'REY',
        offers(),
        sizePlan(cheapest, { journeys: [journey()], offers: offers(), capacities: [], stale: [], billedS: 60 }).find(
          s => s.code === 'REY',
        ),
      ),
    ).toMatchObject([{ code: 'nobody-here' }])
  })

  it('that nothing fits names every change that would do, and fixes with the first that is the plan’s own', () => {
    const [problem] = found({ choose: 'cheapest' }, { quota: { most: 1, used: 0 } }, 100)
    expect(problem).toMatchObject({ code: 'no-fit', weight: 'inTheWay' })
    expect(problem!.remedy).toMatch(/^Any one of these would do\. A quota of 2 more in reyk: 3 × brisk-1\./)
  })
})

describe('what is attached to its machines', () => {
  const attached = (values: Location['attached']) =>
    found(values === undefined ? {} : { attached: values }, { attachments: WANTED }).map(p => [
      p.code,
      p.sentence,
      p.remedy,
    ])

  it('takes the provider’s own where nothing is written, and asks for what has none', () => {
    expect(attached({ network: 'open' })).toEqual([])
    expect(attached(undefined)).toEqual([
      ['attached', 'REY: nimbral wants to know “Network” of its machines.', 'Fill it in where the location is set up.'],
    ])
  })

  it('is held against the provider’s schema, value by value', () => {
    expect(attached({ network: 'moon' })).toEqual([
      ['attached', 'REY: nimbral has no Network “moon”.', 'Choose one of open, peered.'],
    ])
    expect(attached({ network: 'open', diskGb: 4 })).toEqual([
      ['attached', 'REY: “Disk, GB” of 4 is outside 8 to 256.', 'Correct it where the location is set up.'],
    ])
    expect(attached({ network: 'open', diskGb: 10.5 })).toEqual([
      ['attached', 'REY: “Disk, GB” is 10.5, not a whole number.', 'Correct it where the location is set up.'],
    ])
    expect(attached({ network: 'open', publicAddress: 'yes' })).toEqual([
      [
        'attached',
        'REY: “Public address of its own” is yes, not yes or no.',
        'Correct it where the location is set up.',
      ],
    ])
    expect(attached({ network: 'open', colour: 'red' })).toEqual([
      ['attached', 'REY: nimbral knows no “colour”.', 'Take it away where the location is set up.'],
    ])
  })
})
