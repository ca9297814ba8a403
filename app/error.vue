<script setup lang="ts">
/** An address that nothing stands at, or a page that failed: said in the frame, so that all else is one step away. */
import type { NuxtError } from '#app'

const { error } = defineProps<{ error: NuxtError }>()
const missing = computed(() => error.status === 404)
const leave = () => clearError({ redirect: '/' })
useHead({ title: () => `${missing.value ? 'Nothing here' : 'A fault'} · Vornak` })
</script>

<template>
  <UApp>
    <NuxtLayout>
      <div class="screen">
        <div class="screen-head"><h1>{{ missing ? 'Nothing here' : 'This page failed' }}</h1></div>
        <div class="body">
          <p v-if="missing">
            No page of Vornak has the address <code class="mono">{{ $route.fullPath }}</code>. What was there may have been removed, or
            the address was copied in part.
          </p>
          <p v-else class="brick">{{ error.message }}</p>
          <p class="q">Find what you want by name with <UKbd>Ctrl K</UKbd>, or go to the board.</p>
          <UButton class="mt-2" variant="solid" @click="leave">To the board</UButton>
        </div>
      </div>
    </NuxtLayout>
  </UApp>
</template>
