/** Clients as the library shows them: with the plans whose groups have them. */
import type { ClientsView } from '../../api/views'
import { CLIENT_PRESETS } from '../../core/client/presets'
import { clientsUsed } from '../../core/plan/shares'
import type { Library } from './library'

export function clientsView(library: Library): ClientsView {
  const plans = library.plans().map(p => ({ name: p.plan.name, used: clientsUsed(p.plan) }))
  return {
    clients: library.clients().map(client => ({
      client,
      preset: CLIENT_PRESETS.some(p => p.id === client.id),
      plans: plans.filter(p => p.used.includes(client.id)).map(p => p.name),
    })),
  }
}
