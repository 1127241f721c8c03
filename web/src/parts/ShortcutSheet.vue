<script setup lang="ts">
import { ElButton } from 'element-plus'
import { nextTick, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'

/** The keys that work everywhere, and the sheet that lists them: ? opens it. */
const router = useRouter()
const open = ref(false)
const sheet = ref<HTMLElement>()
let first = ''
let before: Element | null = null

const places: Record<string, { to: string; words: string }> = {
  n: { to: '/', words: 'Next round' },
  p: { to: '/portfolio', words: 'Portfolio' },
  v: { to: '/visits', words: 'Visits' },
  r: { to: '/rounds', words: 'Rounds' },
  h: { to: '/house-rules', words: 'House rules' },
}
function typing(e: KeyboardEvent) {
  const t = e.target as HTMLElement
  return t.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(t.tagName)
}
async function show() {
  before = document.activeElement
  open.value = true
  await nextTick()
  sheet.value?.focus()
}
function hide() {
  open.value = false
  if (before instanceof HTMLElement) before.focus()
}
function key(e: KeyboardEvent) {
  if (open.value && e.key === 'Escape') {
    hide()
    return
  }
  if (typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
  if (e.key === '?') {
    e.preventDefault()
    void show()
    return
  }
  if (first === 'g') {
    first = ''
    const place = places[e.key]
    if (place) {
      e.preventDefault()
      void router.push(place.to)
    }
    return
  }
  first = e.key === 'g' ? 'g' : ''
}
onMounted(() => window.addEventListener('keydown', key))
onUnmounted(() => window.removeEventListener('keydown', key))
defineExpose({ show })
</script>

<template>
  <div v-if="open" class="veil" @click.self="hide">
    <div ref="sheet" class="sheet" role="dialog" aria-modal="true" aria-label="Keys" tabindex="-1">
      <h2>Keys</h2>
      <table class="lines">
        <tbody>
          <tr>
            <td><kbd>Ctrl K</kbd> or <kbd>⌘ K</kbd></td>
            <td>Find a unit, a site or a screen</td>
          </tr>
          <tr v-for="(p, k) in places" :key="k">
            <td>
              <kbd>g</kbd> then <kbd>{{ k }}</kbd>
            </td>
            <td>{{ p.words }}</td>
          </tr>
          <tr>
            <td><kbd>?</kbd></td>
            <td>This sheet</td>
          </tr>
          <tr>
            <td><kbd>Esc</kbd></td>
            <td>Close what is open</td>
          </tr>
        </tbody>
      </table>
      <ElButton @click="hide">Close</ElButton>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  background: rgb(0 0 0 / 0.4);
  z-index: 40;
  display: grid;
  place-items: center;
}
.sheet {
  background: var(--paper);
  padding: 18px 24px;
  width: 440px;
  max-width: 94vw;
}
.lines {
  margin: 8px 0 14px;
}
kbd {
  font: inherit;
  font-weight: 600;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 0 5px;
}
</style>
