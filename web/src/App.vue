<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { problemOf } from './api/client'
import { flush, readOutbox, waiting } from './offline/outbox'
import { unsent, wipe } from './offline/shelf'
import CommandField from './parts/CommandField.vue'
import ClockNote from './parts/ClockNote.vue'
import SignAgain from './parts/SignAgain.vue'
import ShortcutSheet from './parts/ShortcutSheet.vue'
import DwellBar from './screens/led/DwellBar.vue'
import { mayManageHouse, mayRecord, session, signOut } from './session'
import { count, shortDay } from './words'

const route = useRoute()
const router = useRouter()
const main = ref<HTMLElement>()
const failed = ref('')

const crews = computed(() => session.value?.role === 'technician')
const screens = computed(() => [
  ...(crews.value ? [{ to: '/today', label: 'Today', under: ['/today', '/scan'] }] : []),
  { to: crews.value ? '/next-round' : '/', label: 'Next round', under: ['/', '/next-round'] },
  { to: '/portfolio', label: 'Portfolio', under: ['/portfolio', '/units', '/sites', '/looks'] },
  { to: '/visits', label: 'Visits', under: ['/visits'] },
  { to: '/rounds', label: 'Rounds', under: ['/rounds'] },
  { to: '/symptoms', label: 'Symptoms', under: ['/symptoms', '/call-outs'] },
  { to: '/bench', label: 'Bench', under: ['/bench'] },
  { to: '/house-rules', label: 'House rules', under: ['/house-rules', '/stock'] },
  ...(mayManageHouse() ? [{ to: '/people', label: 'People', under: ['/people', '/links'] }] : []),
])
const held = computed(() => waiting.value.filter((w) => w.state !== 'sent').length)
const refused = computed(() => waiting.value.filter((w) => w.state === 'refused').length)
/** On a phone a thumb reaches these four; the office's menu is folded away. */
const thumb = computed(() => [
  { to: '/today', label: 'Today', under: ['/today'] },
  { to: '/scan', label: 'Scan', under: ['/scan'] },
  { to: '/bench', label: 'Bench', under: ['/bench'] },
  { to: '/outbox', label: held.value ? `To send (${held.value})` : 'To send', under: ['/outbox'] },
])
const menu = ref(false)
const keys = ref<InstanceType<typeof ShortcutSheet>>()
const here = computed(
  () => (under: string[]) => under.some((u) => (u === '/' ? route.path === '/' : route.path.startsWith(u))),
)

watch(
  () => route.path,
  () => {
    failed.value = ''
    menu.value = false
    main.value?.focus({ preventScroll: true })
  },
)

// A screen's code is loaded when it is first opened.
router.onError(() => {
  failed.value = 'This screen could not be loaded: the server cannot be reached. Try again.'
})

// Who comes next on this device sees what waits of theirs, and nothing of anybody else's.
watch(
  () => session.value?.person_id,
  () => void readOutbox(),
)

/** What would be lost by signing out now; it is asked about first. */
const losing = ref<{ visits: number; begun: number } | null>(null)
const lost = computed(() =>
  [
    losing.value?.visits && `${count(losing.value.visits, 'visit')} not sent yet`,
    losing.value?.begun && `${count(losing.value.begun, 'visit')} begun and not finished`,
  ]
    .filter(Boolean)
    .join(' and '),
)

async function leave() {
  const found = await unsent()
  if (found.visits || found.begun) losing.value = found
  else await leaveNow()
}
async function sendFirst() {
  await flush()
  losing.value = null
  await leave()
}
async function leaveNow() {
  const who = session.value?.person_id ?? ''
  losing.value = null
  try {
    await signOut()
    await wipe(who)
    await readOutbox()
    await router.push('/sign-in')
  } catch (e) {
    failed.value = problemOf(e).message
  }
}
</script>

<template>
  <a class="skip" href="#main">Skip to the screen</a>
  <header v-if="session" class="shell no-print">
    <RouterLink to="/" class="name"
      >Next Round<span
        v-if="session.clock_pinned"
        class="pinned"
        title="In the demonstration the clock stands still"
        >sample, {{ shortDay(session.today) }}</span
      ></RouterLink
    >
    <button
      type="button"
      class="plain menu"
      :aria-expanded="menu"
      aria-controls="screens"
      @click="menu = !menu"
    >
      Menu
    </button>
    <nav id="screens" aria-label="Screens" :class="{ shown: menu }">
      <RouterLink
        v-for="s in screens"
        :key="s.to"
        :to="s.to"
        :class="{ here: here(s.under) }"
        :aria-current="here(s.under) ? 'page' : undefined"
      >
        {{ s.label }}
      </RouterLink>
    </nav>
    <RouterLink v-if="held" to="/outbox" class="held" :class="{ over: refused }">{{
      refused ? `${refused} refused: see why` : `${held} to send`
    }}</RouterLink>
    <div class="who" :class="{ shown: menu }">
      <CommandField />
      <button type="button" class="plain keys" aria-label="Keys" title="Keys" @click="keys?.show()">?</button>
      <RouterLink to="/settings" class="soft" :title="`${session.organisation}: your settings`">{{
        session.person
      }}</RouterLink>
      <button type="button" class="plain" @click="leave">Sign out</button>
    </div>
  </header>
  <ShortcutSheet v-if="session" ref="keys" />
  <p v-if="session?.unprotected" class="notice danger no-print" role="alert">
    This server is reached over the network without encryption: what is typed here, passwords too, can be read
    on the way. Whoever runs it should give it a certificate.
  </p>
  <p v-if="session?.read_only" class="notice no-print" role="status">
    This server only shows what there is. To change anything, use the main server's address.
  </p>
  <p v-if="session?.second_factor === 'required'" class="notice" role="status">
    Your organisation asks you for a second factor. Set it up under
    <RouterLink to="/settings">Your settings</RouterLink>; the rest opens then.
  </p>
  <p v-if="failed" class="notice danger" role="alert">{{ failed }}</p>
  <div v-if="losing" class="notice leaving no-print" role="alertdialog" aria-labelledby="leaving">
    <p id="leaving">
      On this device there {{ losing.visits + losing.begun === 1 ? 'is' : 'are' }} {{ lost }}. Signing out
      removes everything of yours from it.
    </p>
    <ElButton v-if="losing.visits" type="primary" @click="sendFirst">Send, then sign out</ElButton>
    <ElButton @click="leaveNow">Sign out and remove it</ElButton>
    <ElButton @click="losing = null">Stay signed in</ElButton>
  </div>
  <SignAgain v-if="session" />
  <ClockNote v-if="session" />
  <DwellBar v-if="session || route.path.startsWith('/g/')" />
  <main id="main" ref="main" tabindex="-1">
    <RouterView :key="route.path" />
  </main>
  <nav v-if="session && mayRecord()" class="thumb no-print" aria-label="At hand">
    <RouterLink
      v-for="s in thumb"
      :key="s.to"
      :to="s.to"
      :class="{ here: here(s.under), over: s.to === '/outbox' && refused }"
      :aria-current="here(s.under) ? 'page' : undefined"
      >{{ s.label }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  background: var(--sheet);
  padding: 8px;
  z-index: 10;
}
.shell {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 22px;
  padding: 0 28px;
  min-height: 46px;
  border-bottom: 1px solid var(--hairline);
}
.name {
  font-weight: 700;
  font-size: 17px;
  color: var(--ink);
  text-decoration: none;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 0 20px;
}
nav a {
  color: var(--ink-soft);
  text-decoration: none;
  padding: 12px 0 9px;
  border-bottom: 3px solid transparent;
}
nav a.here {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--petrol);
}
.who {
  margin-left: auto;
  display: flex;
  gap: 12px;
  align-items: center;
}
.plain {
  border: 0;
  background: none;
  color: var(--petrol);
  font: inherit;
  padding: 6px 0;
  cursor: pointer;
  text-decoration: underline;
}
.held {
  font-weight: 600;
}
.leaving .el-button {
  margin: 0 12px 8px 0;
}
.leaving {
  margin: 12px 28px;
}
.leaving p {
  margin: 0 0 8px;
}
main:focus {
  outline: none;
}
.pinned {
  display: block;
  font-size: 11.5px;
  font-weight: 400;
  line-height: 1;
  color: var(--ink-soft);
}
.keys {
  text-decoration: none;
  font-weight: 700;
  width: 24px;
}
@media (max-width: 1150px) {
  .who a.soft {
    display: none;
  }
}
.menu,
.thumb {
  display: none;
}
@media (max-width: 700px) {
  .shell {
    padding: 0 14px;
    min-height: 44px;
    justify-content: space-between;
  }
  .menu {
    display: block;
    min-height: 44px;
    padding: 0 6px;
  }
  .shell nav,
  .shell .who {
    display: none;
    width: 100%;
    margin: 0;
  }
  .shell nav.shown,
  .shell .who.shown {
    display: flex;
  }
  .shell nav {
    gap: 0 18px;
  }
  nav a,
  .shell .who > * {
    min-height: 44px;
    min-width: 44px;
    display: flex;
    align-items: center;
  }
  .held {
    display: none;
  }
  .thumb {
    position: fixed;
    inset: auto 0 0 0;
    z-index: 9;
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 0;
    background: var(--paper);
    border-top: 1px solid var(--edge);
    padding-bottom: env(safe-area-inset-bottom);
  }
  .thumb a {
    min-height: 52px;
    justify-content: center;
    text-align: center;
    padding: 4px 2px;
    border-bottom: 0;
    border-top: 3px solid transparent;
    font-size: 15px;
  }
  .thumb a.here {
    border-color: var(--petrol);
  }
  main {
    padding-bottom: calc(72px + env(safe-area-inset-bottom));
  }
}
@media print {
  .thumb {
    display: none;
  }
}
</style>
