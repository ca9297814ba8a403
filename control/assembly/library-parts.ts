/** What is kept to make runs of: targets, journeys, feeds, networks, capacities; and what regions offer. */
import { Journeys } from '../authoring/journeys'
import { Imports } from '../imports/imports'
import { Capacities } from '../library/capacities'
import { FileRoom } from '../library/files'
import { Library } from '../library/library'
import { OfferBook } from '../library/offers'
import { Sizer } from '../library/sizer'
import { Trials } from '../library/trial'
import type { FleetParts } from './fleet-parts'
import type { Foundations } from './foundations'

export interface LibraryPartsOptions {
  /** Hosts this installation answers at itself: nobody loads them. */
  ownHosts: () => string[]
  /** Files of the programs it starts. */
  programs: { importWorker: string, sizingWorker: string, generator: string }
}

export type LibraryParts = ReturnType<typeof libraryParts>

export function libraryParts(
  { clock, news, tables, sealing, disk, filesFolder }: Foundations,
  { ways, fleet, hub }: FleetParts,
  { ownHosts, programs }: LibraryPartsOptions,
) {
  const library = new Library(
    tables.library,
    new FileRoom(filesFolder, tables.library, () => clock.now(), () => disk.hold()),
    sealing,
    clock,
    ownHosts,
  )
  const imports = new Imports(programs.importWorker, library)
  const trials = new Trials(library, programs.generator)
  const sizer = new Sizer(programs.sizingWorker)
  const offerBook = new OfferBook(
    ways,
    clock,
    () => tables.machines.idle(),
    provider => fleet.stageTimes.usualMs(provider),
  )
  const capacities = new Capacities({
    store: tables.capacities,
    library,
    clock,
    remembered: () => offerBook.last,
    onChange: () => news.calibrationsChanged(),
  })
  const journeys = new Journeys({
    library,
    imports,
    trials,
    hub,
    machines: tables.machines,
    offers: () => offerBook.offers(),
  })
  return {
    library,
    imports,
    trials,
    sizer,
    offerBook,
    capacities,
    journeys,
    async close() {
      await imports.stop()
      await sizer.stop()
    },
  }
}
