<script setup lang="ts">
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '../api/client'
import { mayManageHouse } from '../session'

/** One field that finds a unit by its tag, a site, or a screen. Ctrl or ⌘ K opens it from anywhere. */
const router = useRouter()
const text = ref('')
const open = ref(false)
const at = ref(0)
const field = ref<HTMLInputElement>()
interface Hit {
  to: string
  label: string
  detail: string
}
const found = ref<Hit[]>([])
const failed = ref('')

const screens = computed<Hit[]>(() =>
  [
    { to: '/', label: 'Next round', detail: 'screen' },
    { to: '/portfolio', label: 'Portfolio', detail: 'screen' },
    { to: '/portfolio?view=map', label: 'Map of the sites', detail: 'screen' },
    { to: '/portfolio?due=1', label: 'Due or late', detail: 'portfolio' },
    { to: '/visits', label: 'Visits', detail: 'screen' },
    { to: '/rounds', label: 'Rounds', detail: 'screen' },
    { to: '/house-rules', label: 'House rules', detail: 'screen' },
    { to: '/settings', label: 'Your settings', detail: 'units, theme, password' },
    ...(mayManageHouse()
      ? [
          { to: '/people', label: 'People and crews', detail: 'screen' },
          { to: '/portfolio/import', label: 'Import', detail: 'screen' },
          { to: '/portfolio/new-unit', label: 'Add a unit', detail: 'form' },
          { to: '/sites/new', label: 'Add a site', detail: 'form' },
        ]
      : []),
  ].filter((s) => s.label.toLowerCase().includes(text.value.trim().toLowerCase())),
)
const hits = computed(() => [...found.value, ...screens.value].slice(0, 14))

let newest = 0
watch(text, async (t) => {
  at.value = 0
  const mine = ++newest
  failed.value = ''
  if (!t.trim()) {
    found.value = []
    return
  }
  try {
    const list = await ask(api.GET('/search', { params: { query: { q: t.trim() } } }))
    if (mine !== newest) return
    found.value = list.map((h) => ({
      to: h.kind === 'unit' ? `/units/${h.id}` : `/sites/${h.id}`,
      label: h.label,
      detail: h.kind === 'unit' ? h.detail : `site ${h.detail}`,
    }))
  } catch {
    if (mine === newest) failed.value = 'The server cannot be reached.'
  }
})

async function show() {
  open.value = true
  await nextTick()
  field.value?.focus()
  field.value?.select()
}
function hide() {
  open.value = false
  text.value = ''
}
function go(h: Hit | undefined) {
  if (!h) return
  hide()
  field.value?.blur()
  void router.push(h.to)
}
function key(e: KeyboardEvent) {
  const n = Math.max(hits.value.length, 1)
  if (e.key === 'ArrowDown') at.value = (at.value + 1) % n
  else if (e.key === 'ArrowUp') at.value = (at.value + n - 1) % n
  else if (e.key === 'Enter') go(hits.value[at.value])
  else if (e.key === 'Escape') {
    hide()
    field.value?.blur()
  } else return
  e.preventDefault()
}
function anywhere(e: KeyboardEvent) {
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
    e.preventDefault()
    void show()
  }
}
onMounted(() => window.addEventListener('keydown', anywhere))
onUnmounted(() => window.removeEventListener('keydown', anywhere))
const leave = () => setTimeout(hide, 150)
</script>

<template>
  <div class="command">
    <input
      ref="field"
      v-model="text"
      role="combobox"
      aria-label="Unit, site or screen"
      aria-controls="command-hits"
      :aria-expanded="open"
      :aria-activedescendant="open && hits.length ? `hit-${at}` : undefined"
      placeholder="Unit, site or screen"
      autocomplete="off"
      @focus="open = true"
      @blur="leave"
      @keydown="key"
    />
    <kbd aria-hidden="true">Ctrl K</kbd>
    <ul v-show="open" id="command-hits" role="listbox" aria-label="Found">
      <li
        v-for="(h, i) in hits"
        :id="`hit-${i}`"
        :key="h.to + h.label"
        role="option"
        :aria-selected="i === at"
        :class="{ at: i === at }"
        @mousedown.prevent="go(h)"
        @mousemove="at = i"
      >
        {{ h.label }} <span class="soft">{{ h.detail }}</span>
      </li>
      <li v-if="!hits.length" class="soft" role="option" aria-selected="false">
        {{ failed || 'Nothing found.' }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.command {
  position: relative;
}
input {
  width: 216px;
  padding: 5px 58px 5px 10px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 14px;
}
input::placeholder {
  color: var(--placeholder);
  opacity: 1;
}
kbd {
  position: absolute;
  right: 9px;
  top: 6px;
  font: inherit;
  font-size: 12px;
  color: var(--ink-soft);
  pointer-events: none;
}
ul {
  position: absolute;
  right: 0;
  top: 34px;
  width: 380px;
  max-width: 92vw;
  margin: 0;
  padding: 6px 0;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--edge);
  z-index: 30;
}
li {
  padding: 5px 12px;
  cursor: pointer;
}
li.at {
  background: var(--petrol-tint);
}
@media (max-width: 700px) {
  kbd {
    display: none;
  }
  input {
    width: 150px;
    padding-right: 8px;
  }
}
</style>
