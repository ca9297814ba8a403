<script setup lang="ts">
/** Two have edited the same plan: says what the other changed, and lets one choose. Nothing is lost either way. */
import { type Change, changesBetween } from '~~/core/checks/differences'

const store = usePlan()
const theirs = ref<Change[]>([])
watch(
  () => store.conflict,
  async (version) => {
    if (version === undefined || !store.view) return
    const view = await api('plan', { plan: store.view.id }).catch(() => undefined)
    theirs.value = view ? changesBetween(store.view.plan, view.plan, view.journeys) : []
  },
  { immediate: true },
)

async function apart(): Promise<void> {
  const id = await store.keepMineApart()
  if (id) await goTo(`/plans/${id}`)
}
</script>

<template>
  <div class="conflict panel" role="alertdialog" aria-label="Saved by somebody else meanwhile">
    <p>
      <AGlyph
        name="inTheWay"
        word="problem"
        class="brick"
      /> <b>Somebody else saved version {{ store.conflict }} while this was being edited.</b> <span class="q">Your changes are still on the sheet. Theirs:
        {{
          theirs
            .slice(0, 3)
            .map(c => `${c.what} ${c.before} → ${c.after}`)
            .join('; ') || 'none that differ'
        }}{{ theirs.length > 3 ? `; and ${theirs.length - 3} more` : '' }}.</span>
    </p>
    <div>
      <UButton v-needs="'operator'" @click="apart">Keep mine as a plan of its own</UButton><UButton v-needs="'operator'" @click="store.saveOver()">
        Save mine as version {{ store.conflict! + 1 }}; theirs stays in the versions
      </UButton>
    </div>
  </div>
</template>

<style scoped>
.conflict {
  position: absolute;
  z-index: 6;
  left: 68px;
  right: 12px;
  top: 44px;
  padding: 8px 12px;
  display: grid;
  gap: 8px;
  border-color: var(--brick);
  background: var(--brickbg);
}
.conflict div {
  display: flex;
  gap: 8px;
}
</style>
