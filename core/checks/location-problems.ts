/**
 * What is wrong with a location of a plan: its provider, region, machine type, number of machines, and what is attached
 * to them.
 */
import { ownOf } from '../values/own'
import type { LocationSizing, SizingRemedy } from '../fleet/sizing'
import { resolveShares } from '../plan/shares'
import type { Location, Plan } from '../plan/document'
import type { RegionOffer } from '../offers/machine-type'
import { inTheWay, type Fix, type Problem } from './problem'
import { locationOf } from '../plan/in-plan'

/**
 * @param sizing what the location takes; none: it could not be sized @param offers a provider's regions; none: the
 * provider did not answer
 */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function locationProblems(
  plan: Plan,
  code: string,
  offers: Record<string, RegionOffer[] | undefined>,
  sizing: LocationSizing | undefined,
): Problem[] {
  const location = locationOf(plan, code)
  const regions = ownOf(offers, location.provider)
  if (!regions)
    return [
      inTheWay(
        'provider-silent',
        `${location.provider} does not answer: nothing can be rented at ${code}.`,
        'Start the provider, or check its address in the settings.',
        { location: code },
      ),
    ]
  const offer = regions.find(r => r.region === location.region)
  if (!offer)
    return [
      inTheWay(
        'unknown-region',
        `${code}: ${location.provider} has no region “${location.region}”.`,
        `Choose one of ${regions.map(r => r.region).join(', ')}.`,
        { location: code },
      ),
    ]
  const type = offer.types.find(t => t.name === location.machineType)
  if (location.choose === 'cheapest') return sizing ? cheapestProblems(plan, location, offer, sizing) : []
  if (!type || !sizing)
    return [
      inTheWay(
        'unknown-type',
        `${code}: ${location.provider} has no machine type “${location.machineType}” in ${location.region}.`,
        `Choose one of ${offer.types.map(t => t.name).join(', ')}.`,
        { location: code },
      ),
    ]
  const { needed } = sizing
  const wanted = location.machines === 'auto' ? needed : location.machines
  // What is kept warm is taken before anything new.
  const free = offer.quota.most - offer.quota.used + (ownOf(offer.waiting, type.name) ?? 0)
  const found: Problem[] = [...attachedProblems(location, offer)]
  if (needed === 0) return [nobodyAt(plan, code)]
  if (location.interruptible && type.interruptiblePerHour === undefined)
    found.push(
      inTheWay(
        'not-interruptible',
        `${code}: ${type.name} is not rented at an interruptible price.`,
        'Take it at its ordinary price, or another type.',
        { location: code },
      ),
    )
  if (location.interruptible && type.interruptiblePerHour !== undefined)
    found.push({
      code: 'interruptible',
      weight: 'toKnow',
      sentence: `${code}: its machines may be taken back at short notice, several at once.`,
      remedy: 'Cheaper; a run that loses them is no sound evidence.',
      location: code,
    })
  for (const region of location.elsewhere ?? [])
    if (!regions.some(r => r.region === region))
      found.push(
        inTheWay(
          'unknown-region',
          `${code}: ${location.provider} has no region “${region}” to go to after a failed boot.`,
          `Choose among ${regions.map(r => r.region).join(', ')}.`,
          { location: code },
        ),
      )
  if (offer.noStock?.includes(type.name))
    found.push({
      code: 'no-stock',
      weight: 'toKnow',
      sentence: `${location.region} is out of ${type.name} at the moment.`,
      remedy: 'The run will wait for them; another type or region is there at once.',
      location: code,
    })
  if (wanted > free && offer.selfEnrolled)
    found.push({
      code: 'not-enrolled',
      weight: 'toKnow',
      sentence: `${code} needs ${wanted} machines; ${free} have enrolled.`,
      remedy: 'Invite more on the Fleet screen: the run waits for them.',
      location: code,
    })
  else if (wanted > free)
    found.push(
      inTheWay(
        'quota',
        `${code} needs ${wanted} × ${type.name}; ${free} of ${offer.quota.most} machines are free in ${location.region}.`,
        'Move a share elsewhere, take a larger type, or ask the provider for more.',
        { location: code },
      ),
    )
  if (location.machines !== 'auto' && location.machines < needed) {
    found.push(
      location.machines === 0
        ? inTheWay('no-machine', `${code} has users and no machine.`, `Take ${needed}.`, {
            location: code,
            fix: { kind: 'setMachines', location: code, machines: 'auto' },
            price: `€${(needed * type.pricePerHour).toFixed(2)}/h`,
          })
        : {
            code: 'few-machines',
            weight: 'costsSoundness',
            sentence: `${code} has ${location.machines} × ${type.name}, ${needed} would be needed.`,
            remedy: 'Generators may become the bottleneck.',
            location: code,
            fix: { kind: 'setMachines', location: code, machines: 'auto' },
            price: `+€${((needed - location.machines) * type.pricePerHour).toFixed(2)}/h`,
          },
    )
  }
  return found
}

/** Somebody is to come there, or the location is not needed: both are offered, the fuller place first to give. */
function nobodyAt(plan: Plan, code: string): Problem {
  const shares = plan.groups.map(g => resolveShares(plan, g.letter).bp)
  const held = plan.locations.map((l, i) => ({ code: l.code, bp: shares.reduce((sum, bp) => sum + bp[i]!, 0) }))
  const [fullest] = held.filter(l => l.bp > 0).sort((a, b) => b.bp - a.bp)
  const about = {
    code: 'nobody-here',
    weight: 'toKnow' as const,
    sentence: `Nobody is placed at ${code}: no machine is taken there.`,
    remedy: 'Give a group a share there, or take the location away.',
    location: code,
  }
  const remove: Fix = { kind: 'removeLocation', location: code }
  return fullest
    ? {
        ...about,
        fix: { kind: 'spreadEvenly' },
        others: [{ kind: 'takeFrom', from: fullest.code, to: code }, remove],
      }
    : { ...about, fix: remove }
}

function cheapestProblems(
  plan: Plan,
  location: Location,
  offer: RegionOffer,
  sizing: LocationSizing,
): Problem[] {
  const { code } = location
  const found = attachedProblems(location, offer)
  if (sizing.users === 0) return [nobodyAt(plan, code)]
  if (sizing.machines.some(m => m.interruptible))
    found.push({
      code: 'interruptible',
      weight: 'toKnow',
      sentence: `${code}: some of its machines may be taken back at short notice.`,
      remedy: 'Cheaper; a run that loses them is no sound evidence.',
      location: code,
    })
  if (!sizing.unfit) return found
  const [first] = sizing.remedies
  const fix = sizing.remedies.map(fixOf).find(m => m !== undefined)
  return [
    ...found,
    inTheWay(
      'no-fit',
      sizing.binds,
      first
        ? `Any one of these would do. ${sizing.remedies.map(r => r.sentence).join(' ')}`
        : 'Place its users elsewhere.',
      { location: code, ...(fix ? { fix } : {}) },
    ),
  ]
}

function fixOf({ change }: SizingRemedy): Fix | undefined {
  return change && { kind: 'setSizing', ...change }
}

const KINDS = { string: 'a text', number: 'a number', integer: 'a whole number', boolean: 'yes or no' }

/** What the provider wants attached, held against its own schema. */
function attachedProblems({ code, attached = {}, provider }: Location, { attachments }: RegionOffer): Problem[] {
  if (!attachments) return []
  const found: Problem[] = []
  const wrong = (sentence: string, remedy: string) =>
    found.push(inTheWay('attached', sentence, remedy, { location: code }))
  for (const [name, about] of Object.entries(attachments.properties)) {
    const value = ownOf(attached, name) ?? about.default
    const said = about.title ?? name
    if (value === undefined) {
      if (attachments.required?.includes(name))
        wrong(
          `${code}: ${provider} wants to know “${said}” of its machines.`,
          'Fill it in where the location is set up.',
        )
      continue
    }
    const right = about.type === 'integer' ? Number.isInteger(value) : typeof value === about.type
    if (!right)
      wrong(
        `${code}: “${said}” is ${String(value)}, not ${KINDS[about.type]}.`,
        'Correct it where the location is set up.',
      )
    else if (about.enum && !about.enum.some(one => one === value))
      wrong(`${code}: ${provider} has no ${said} “${String(value)}”.`, `Choose one of ${about.enum.join(', ')}.`)
    else if (typeof value === 'number' && (value < (about.minimum ?? value) || value > (about.maximum ?? value)))
      wrong(
        `${code}: “${said}” of ${value} is outside ${about.minimum ?? '–'} to ${about.maximum ?? '–'}.`,
        'Correct it where the location is set up.',
      )
  }
  for (const name of Object.keys(attached))
    if (!(name in attachments.properties))
      wrong(`${code}: ${provider} knows no “${name}”.`, 'Take it away where the location is set up.')
  return found
}
