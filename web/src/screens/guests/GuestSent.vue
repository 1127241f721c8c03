<script setup lang="ts">
import { computed, onMounted } from 'vue'

import { useRouter } from 'vue-router'

import { flush, takeBack, waiting } from '../../offline/outbox'
import type { Waiting } from '../../offline/shelf'

/** What became of a contractor's visit. */
const props = defineProps<{ token: string }>()
const router = useRouter()
const mend = async (w: Waiting) => router.push(await takeBack(w))
/** The visit returned last by this link; what is refused or waits comes first. */
const all = computed(() => waiting.value.filter((w) => w.token === props.token))
const mine = computed(
  () =>
    all.value.find((w) => w.state === 'refused') ??
    all.value.find((w) => w.state !== 'sent') ??
    all.value.at(-1),
)
onMounted(() => void flush())
</script>

<template>
  <section class="screen narrow">
    <template v-if="!mine || mine.state === 'sent'">
      <h1>Visit received</h1>
      <p>Thank you. The visit was received. This link works until every unit on it is returned.</p>
      <RouterLink class="plain-button" :to="`/g/${token}`">The other units</RouterLink>
    </template>
    <template v-else-if="mine.state === 'refused'">
      <h1>Not accepted yet</h1>
      <button type="button" class="plain-button" @click="mend(mine)">Correct it</button>
      <p class="over">{{ mine.problem }}</p>
      <ul>
        <li v-for="f in mine.fields" :key="f.pointer">{{ f.reason }}</li>
      </ul>
    </template>
    <template v-else>
      <h1>Kept on this phone</h1>
      <p>
        It is sent as soon as there is network; leave this page open, or open the link again later.
        {{ mine.problem }}
      </p>
      <button type="button" class="plain-button" @click="flush()">Send now</button>
    </template>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 620px;
}
</style>
