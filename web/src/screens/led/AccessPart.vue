<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { upperFirst, windowWords } from '../../words'

defineOptions({ inheritAttrs: false })
/** Where it is, how it is reached, and what waits there. */
const props = defineProps<{ pack: Schemas['VisitPack'] }>()
const there = { yes: 'yes', no: 'none', unknown: 'not known: ask' }
const burns = {
  yes: 'burns: no ignition source, air the place',
  no: '',
  unknown: 'not known whether it burns: treated as if it did',
}
const lines = computed(() => {
  const p = props.pack.place
  return [
    ['Where', [props.pack.unit.placement, p.address].filter(Boolean).join(', ')],
    ['Ask for', [p.contact, p.phone].filter(Boolean).join(', ')],
    ['Keys', p.keys],
    ...p.windows.map((w): [string, string] => [
      upperFirst(windowWords[w.kind]),
      `${w.starts} to ${w.ends}${w.note ? `, ${w.note}` : ''}`,
    ]),
    ['Access', p.access_note],
    [
      'Isolation',
      [p.isolation_point, p.isolation_kind === 'unstated' ? '' : p.isolation_kind].filter(Boolean).join(', '),
    ],
    [
      'Panels',
      [
        p.panels,
        p.guards ? `${p.guards} ${p.guards === 1 ? 'guard' : 'guards'}` : '',
        p.fixings ? `${p.fixings} fixings` : '',
        p.fixings_note,
      ]
        .filter(Boolean)
        .join('; '),
    ],
    ['Ladder', p.ladder_m ? `${p.ladder_m} m` : ''],
    ['People', p.people > 1 ? String(p.people) : ''],
    ['Hazards', p.hazards],
    ['Water', [there[p.water], p.water_note].filter(Boolean).join('; ')],
    ['Power', p.power],
    ['Drain', [there[p.drain], p.drain_note].filter(Boolean).join('; ')],
    ['Refrigerant', burns[p.flammable]],
  ].filter(([, v]) => v) as [string, string][]
})
</script>

<template>
  <dl>
    <template v-for="[k, v] in lines" :key="k + v">
      <dt>{{ k }}</dt>
      <dd :class="{ strong: k === 'Hazards' }">{{ v }}</dd>
    </template>
  </dl>
  <p v-if="pack.neighbours.length" class="soft">
    Similar units here:
    <template v-for="(n, i) in pack.neighbours" :key="n.unit_id"
      >{{ i ? '; ' : '' }}{{ n.tag }} {{ Math.round(n.blocked_share * 100) }} % blocked, every
      {{ n.every_days }} d<template v-if="n.last_found !== undefined"
        >, found at grade {{ n.last_found }}</template
      ></template
    >.
  </p>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 14px;
  margin: 0 0 10px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
.strong {
  font-weight: 650;
}
</style>
