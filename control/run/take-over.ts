/** When a generator is lost under load, the others of its location take its users over, never past what they carry; what has no room is shed, and said. */
import { shareOut } from '../../core/placement/share-out'
import { orderOfPlace } from '../../core/plan/document'
import { sliceFor } from '../../core/plan/slice'
import { capacitiesOf } from '../library/supplies'
import { crewOf, type ActiveRun, type CarriedPart, type PhaseTools } from './active-run'

/** @param number of the generator that is lost @returns what is to be said of it; undefined where nobody can be moved */
export function takeOver(run: ActiveRun, number: number, tools: PhaseTools): string | undefined {
  const { document, generators } = run
  const lost = generators[number]!
  const code = document.plan.locations[lost.location]!.code
  const posts = postsOf(run)
  const capacities = capacitiesOf(document)
  const carriedBy = (g: number) => run.carried.get(g) ?? [{ ...posts[g]!, users: [...ownUsers(run, posts[g]!, capacities).keys()] }]
  const orphans = carriedBy(number).flatMap(c => c.users.map(user => ({ location: c.location, generator: c.generator, user })))
  // Runs of earlier releases do not say what a machine carries: nobody is pushed.
  const carries = (g: number) => orderOfPlace(document.fleet, code, posts[g]!.generator)?.carries
  const left = [...generators.keys()].filter(g => g !== number && generators[g]!.location === lost.location && !run.goneAtSecond.has(g) && !run.finished.has(g) && carries(g) !== undefined)
  if (orphans.length === 0) return undefined
  const to = shareOut(orphans.length, left.map(g => ({ carries: Math.floor(carries(g)!), held: carriedBy(g).reduce((sum, c) => sum + c.users.length, 0) })))
  const crew = new Map(crewOf(run, tools).map(c => [c.machine.id, c.connection]))
  const takers: string[] = []
  for (const [i, g] of left.entries()) {
    const mine = orphans.filter((_, u) => to[u] === i)
    if (mine.length === 0) continue
    const taken = grouped(mine)
    run.carried.set(g, [...carriedBy(g), ...taken])
    crew.get(generators[g]!.machineId)?.say({ kind: 'takeOver', runId: String(run.id), lost: taken })
    takers.push(generators[g]!.name)
  }
  const shed = to.filter(t => t < 0).length
  const moved = orphans.length - shed
  return `${moved > 0 ? `${moved} of its ${orphans.length} users go to ${takers.join(', ')}` : `None of its ${orphans.length} users go elsewhere`}${shed > 0 ? `; ${shed} are shed: ${left.length === 0 ? `nobody is left at ${code}` : 'the others would be past what they carry'}` : ''}.`
}

/** Place of each generator among those of its location. */
function postsOf({ generators }: ActiveRun): { location: number, generator: number }[] {
  const places = new Map<number, number>()
  return generators.map(({ location }) => {
    const generator = places.get(location) ?? 0
    places.set(location, generator + 1)
    return { location, generator }
  })
}

/** Users who come and go by the plan; those a controller calls follow its next call by themselves. */
function ownUsers({ document }: ActiveRun, post: { location: number, generator: number }, capacities: number[][]) {
  return sliceFor(document, capacities, post).users.filter(u => u.stays.length > 0)
}

function grouped(users: readonly { location: number, generator: number, user: number }[]): CarriedPart[] {
  const byPost = new Map<string, CarriedPart>()
  for (const { location, generator, user } of users) {
    const key = `${location}/${generator}`
    const post = byPost.get(key)
    if (post) post.users.push(user)
    else byPost.set(key, { location, generator, users: [user] })
  }
  return [...byPost.values()]
}
