/** Private hosts: sites as they are saved, edited as drafts, tried and told apart. */
import { defineStore } from 'pinia'
import type { HostLineView, HostsView } from '~~/api/views'
import type { HostTemplate, Site } from '~~/core/fleet/site'
import { present } from '~~/core/values/present'

const NEW_TEMPLATE: HostTemplate = {
  port: 22,
  user: 'vornak',
  signIn: { kind: 'agent' },
  folder: '~/vornak',
  node: 'node',
}

export const useHosts = defineStore('hosts', () => {
  const view = ref<HostsView>()
  const draft = ref<Site>()
  const saved = ref('')
  const { problem, guarded: run, reading } = useGuarded()
  /** Refs of hosts being tried now. */
  const trying = ref(new Set<string>())
  const dirty = computed(() => draft.value !== undefined && JSON.stringify(draft.value) !== saved.value)
  const lines = computed(
    () =>
      new Map<string, HostLineView>(
        (view.value?.sites.find(s => s.site.id === draft.value?.id)?.hosts ?? []).map(h => [h.name, h]),
      ),
  )

  const load = () =>
    reading(async () => {
      view.value = await api('hosts')
      if (!draft.value) open(view.value.sites[0]?.site)
    })

  function open(site: Site | undefined): void {
    draft.value = site && structuredClone(toRaw(site))
    saved.value = JSON.stringify(draft.value)
  }

  /** The site whose hosts are edited. */
  const edited = () => present(draft.value, 'the site that is open')

  function begin(): void {
    const ids = new Set(view.value?.sites.map(s => s.site.id))
    let n = 1
    while (ids.has(`site-${n}`)) n++
    const key = view.value?.keys[0]?.name
    draft.value = {
      id: `site-${n}`,
      code: 'PRV',
      name: `Site ${n}`,
      template: { ...NEW_TEMPLATE, ...(key ? { signIn: { kind: 'key', key } } : {}) },
      hosts: [],
    }
    saved.value = ''
  }

  const save = () =>
    run(async () => {
      const { site } = await api('saveSite', {}, { site: edited() })
      open(site)
      view.value = await api('hosts')
    })

  /** Tries hosts; each tells at which step it failed. @param names of the site that is open */
  async function tryHosts(names: string[]): Promise<void> {
    if (dirty.value && !(await save())) return
    const refs = names.map(n => `${edited().id}/${n}`)
    for (const host of refs) trying.value.add(host)
    await run(async () => {
      await Promise.all(
        refs.map(async (host) => {
          try {
            await api('tryHosts', {}, { hosts: [host] })
          }
          finally {
            trying.value.delete(host)
          }
          view.value = await api('hosts')
        }),
      )
    })
    for (const host of refs) trying.value.delete(host)
  }

  const acceptKey = (name: string, fingerprint: string) =>
    run(async () => {
      await api('acceptHostKeys', {}, { keys: [{ host: `${edited().id}/${name}`, fingerprint }] })
    }).then(ok => (ok ? tryHosts([name]) : undefined))

  /** Adds rows of a pasted table; a row whose name is there already takes its place. */
  const paste = (text: string) =>
    run(async () => {
      const rows = await api('readHosts', {}, { text })
      const names = new Set(rows.map(r => r.name))
      edited().hosts = [...edited().hosts.filter(h => !names.has(h.name)), ...rows]
    })

  const remove = () =>
    run(async () => {
      await api('removeSite', { site: edited().id })
      draft.value = undefined
      await load()
    })

  return {
    view,
    draft,
    problem,
    trying,
    dirty,
    lines,
    load,
    open,
    begin,
    save,
    tryHosts,
    acceptKey,
    paste,
    remove,
    run,
  }
})
