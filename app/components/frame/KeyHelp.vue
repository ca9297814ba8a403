<script setup lang="ts">
/** The keys there are on this screen. */
const open = defineModel<boolean>({ required: true })
const { commands, off } = useKeyList()
</script>

<template>
  <UModal v-model:open="open" title="Keys" description="They never fire while you type.">
    <template #body>
      <table class="table">
        <tbody>
          <tr v-for="c in [...commands]" :key="c.key">
            <td class="key">
              <kbd>{{ c.key }}</kbd>
            </td>
            <td>{{ c.says }}</td>
          </tr>
        </tbody>
      </table>
      <label class="switch"><input v-model="off" type="checkbox"> Switch single keys off</label>
    </template>
  </UModal>
</template>

<style scoped>
.key {
  width: 60px;
}
.switch {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 12px;
}
</style>
