/** Who sits here: known to the server, or not yet. What the screen offers is held against it; the server decides. */
import { defineStore } from 'pinia'
import { includes, type Role } from '~~/api/roles'
import type { MeView } from '~~/api/views'

export const useMe = defineStore('me', () => {
  const view = ref<MeView>()
  /** Nobody can sign in yet: this computer may do everything. */
  const isOpen = computed(() => view.value?.open === true)
  const isKnown = computed(() => isOpen.value || view.value?.person !== undefined)
  const role = computed<Role | undefined>(() => (isOpen.value ? 'keeper' : view.value?.person?.role))
  const may = (needed: Role): boolean => role.value !== undefined && includes(role.value, needed)

  async function load(): Promise<void> {
    view.value = await api('me')
  }

  /** @throws ApiError */
  async function signIn(name: string, password: string): Promise<void> {
    view.value = await api('signIn', {}, { name, password })
  }

  async function signOut(): Promise<void> {
    await api('signOut', {}, {})
    forget()
  }

  /** The server does not know who sits here any more. */
  function forget(): void {
    view.value = { open: false }
  }

  return { view, isOpen, isKnown, role, may, load, signIn, signOut, forget }
})
