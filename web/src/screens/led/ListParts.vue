<script setup lang="ts">
import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { answerWords, shortDay, symptomWords } from '../../words'
import type { Work } from './ledVisit'

/** The lists of a visit: parts noted, what was counted, what the site was told. */
const props = defineProps<{ pack: Schemas['VisitPack']; form: 'parts' | 'count' | 'told'; back: boolean }>()
const work = defineModel<Work>({ required: true })
const counted = { screws: 'Screws', plugs: 'Plugs', panels: 'Panels', tools: 'Tools' } as const
const answers = Object.entries(answerWords).map(([value, label]) => ({ value: value as 'told', label }))
const partKinds = ['filter', 'fan motor', 'fan blade', 'capacitor', 'contactor', 'belt', 'other']
const why = (what: keyof typeof counted) => {
  const c = work.value.counts[what]
  return props.back && c.taken !== null && c.back !== null && c.taken !== c.back
}
</script>

<template>
  <template v-if="form === 'parts'">
    <ul v-if="pack.parts.length" class="soft">
      <li v-for="p in pack.parts" :key="p.id">
        {{ p.kind }}: {{ p.specification }}{{ p.quantity > 1 ? ` × ${p.quantity}` : '' }}
      </li>
    </ul>
    <div v-for="(p, i) in work.parts" :key="i" class="fields two">
      <label class="field"
        ><span class="label">Part</span>
        <input v-model="p.kind" class="plain-input" maxlength="60" :list="`kinds-${i}`" />
        <datalist :id="`kinds-${i}`"><option v-for="k in partKinds" :key="k" :value="k" /></datalist>
      </label>
      <label class="field"
        ><span class="label">Size or rating</span
        ><input
          v-model="p.specification"
          class="plain-input"
          maxlength="200"
          placeholder="rating or size on its label"
      /></label>
    </div>
    <button
      type="button"
      class="add-one"
      @click="work.parts.push({ kind: '', specification: '', quantity: 1, note: '' })"
    >
      Note a part
    </button>
    <h4>Watch</h4>
    <label v-for="(w, i) in work.new_watch" :key="i" class="field"
      ><span class="label">To look at again each visit</span
      ><input
        v-model="w.what"
        class="plain-input"
        maxlength="500"
        placeholder="for example: chafing at the second bend"
    /></label>
    <button type="button" class="add-one" @click="work.new_watch.push({ what: '', surface_id: '' })">
      Watch something
    </button>
  </template>

  <template v-else-if="form === 'count'">
    <div v-for="(word, what) in counted" :key="what" class="count">
      <FigureField
        v-model="work.counts[what].taken"
        :label="`${word} ${what === 'tools' ? 'brought' : 'taken out'}`"
      />
      <FigureField v-if="back" v-model="work.counts[what].back" :label="`${word} back`" />
      <label v-if="why(what)" class="field wide"
        ><span class="label">Where the missing ones are</span
        ><input v-model="work.counts[what].why" class="plain-input" maxlength="300"
      /></label>
    </div>
  </template>

  <template v-else>
    <template v-if="pack.symptoms.length">
      <section v-for="s in pack.symptoms" :key="s.id">
        <p>
          <strong>{{ symptomWords[s.kind as 'water'] }}</strong>, {{ shortDay(s.day) }}. {{ s.note }}
        </p>
        <TapChoice
          v-model="work.symptoms[s.id]!"
          label="Was the coil the cause?"
          :options="[
            { value: true, label: 'Yes' },
            { value: false, label: 'No' },
          ]"
        />
      </section>
    </template>
    <section v-for="(a, i) in work.advised" :key="i">
      <label class="field"
        ><span class="label">Defect or advice</span
        ><input
          v-model="a.text"
          class="plain-input"
          maxlength="500"
          placeholder="for example: move the dryer’s outlet"
      /></label>
      <TapChoice v-model="a.answer" hide-label label="What the site said" :options="answers" />
    </section>
    <button type="button" class="add-one" @click="work.advised.push({ text: '', answer: 'told' })">
      Add a defect or advice
    </button>
    <label class="field told"
      ><span class="label">Who was told</span
      ><input
        v-model="work.told_whom"
        class="plain-input"
        maxlength="120"
        placeholder="nobody there: leave empty"
    /></label>
  </template>
</template>

<style scoped>
.two,
.count {
  display: grid;
  grid-template-columns: repeat(2, 1fr);
  gap: 0 12px;
}
.wide {
  grid-column: 1 / -1;
}
section {
  border-top: 1px solid var(--hairline);
  padding-top: 8px;
}
h4 {
  margin: 4px 0 6px;
  font-size: 15px;
}
</style>
