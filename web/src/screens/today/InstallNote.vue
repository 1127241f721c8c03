<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

import { putDown } from '../../offline/device'

/** How the application gets on to the home screen, and what that is good for; gone once somebody has read it. */
interface Prompt extends Event {
  prompt: () => Promise<void>
}
const offered = ref<Prompt | null>(null)
const key = 'install-note'
const read = ref(
  localStorage.getItem(key) !== null || window.matchMedia('(display-mode: standalone)').matches,
)
useEventListener(window, 'beforeinstallprompt', (e) => {
  e.preventDefault()
  offered.value = e as Prompt
})
function close() {
  putDown(key, true)
  read.value = true
}
async function install() {
  await offered.value?.prompt()
  close()
}
</script>

<template>
  <div v-if="!read" class="notice">
    <p>
      <strong>Put Next Round on the home screen:</strong> it then opens like any other app, also without
      network, and the phone keeps what it holds for longer.
      <template v-if="!offered">In the browser’s menu, choose “Add to home screen” or “Install”.</template>
    </p>
    <button v-if="offered" type="button" class="plain-button primary" @click="install">Put it there</button>
    <button type="button" class="plain-button" @click="close">Understood</button>
  </div>
</template>

<style scoped>
.plain-button {
  margin-right: 8px;
}
</style>
