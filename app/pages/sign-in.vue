<script setup lang="ts">
/** Those who come say who they are. */
import { ownPath } from '~~/api/own-path'

definePageMeta({ layout: 'bare' })
const me = useMe()
const route = useRoute()
const { problem, guarded } = useGuarded()
const name = ref('')
const password = ref('')
const busy = ref(false)
const next = computed(() => ownPath(route.query.to))
/** Said by the server when another service led back without anybody to vouch for. */
const failed = computed(() => {
  const sentence = route.query.failed
  return typeof sentence === 'string' ? { code: 'elsewhere' as const, sentence: sentence.slice(0, 300), remedy: '' } : undefined
})
async function signIn(): Promise<void> {
  busy.value = true
  const ok = await guarded(() => me.signIn(name.value, password.value))
  busy.value = false
  if (ok) return void goTo(next.value)
  password.value = ''
  focusOn('input[type=password]')
}
useHead({ title: 'Sign in · Vornak' })
</script>

<template>
  <div class="page">
    <FaultForm class="panel" :problem="problem ?? failed" @submit="signIn">
      <h1><span aria-hidden="true">V</span> Vornak</h1>
      <UFormField name="username" label="Name" required>
        <UInput
          v-model="name"
          name="username"
          autocomplete="username"
          required
          maxlength="80"
          autofocus
        />
      </UFormField>
      <UFormField name="password" label="Password" required>
        <UInput v-model="password" type="password" autocomplete="current-password" required maxlength="200" />
      </UFormField>
      <UButton variant="solid" type="submit" :aria-disabled="busy">{{ busy ? 'Looking…' : 'Sign in' }}</UButton>
      <template v-if="me.view?.elsewhere">
        <p class="or q s12">or</p>
        <UButton external :to="hrefTo('goElsewhere', { to: next })">Sign in with {{ me.view.elsewhere }}</UButton>
      </template>
      <p class="q s12">Forgotten? A keeper gives you a new password; on the server itself <code>npm run person -- NAME</code> does.</p>
    </FaultForm>
  </div>
</template>

<style scoped>
.page {
  min-height: 100vh;
  display: grid;
  place-items: center;
  background: var(--bg);
}
form {
  width: min(360px, calc(100vw - 24px));
  display: grid;
  gap: 12px;
  padding: 18px 20px 16px;
}
form > button {
  justify-self: start;
}
h1 {
  font-size: 18px;
  font-weight: 650;
}
h1 span {
  font-weight: 760;
  font-stretch: 125%;
  margin-right: 4px;
}
code {
  font-size: 11.5px;
}
</style>
