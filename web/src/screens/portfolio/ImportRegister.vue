<script setup lang="ts">
import { ElButton } from 'element-plus'
import { ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { loadCatalogue } from '../../session'
import { useLoad } from '../../parts/useLoad'
import { count } from '../../words'

/** The file as it was when it was chosen: it may be mended and chosen again under the same name. */
const file = ref<{ name: string; text: ArrayBuffer } | null>(null)
const report = ref<Schemas['ImportReport'] | null>(null)
const problem = ref<ApiProblem | null>(null)
const busy = ref(false)
const catalogue = useLoad(loadCatalogue)

async function send(dryRun: boolean) {
  const f = file.value
  if (!f) return
  busy.value = true
  problem.value = null
  try {
    report.value = await ask(
      api.POST('/register/imports', {
        params: { query: { dry_run: dryRun, file_name: f.name } },
        body: f.text as unknown as string,
        bodySerializer: (b: unknown) => b as BodyInit,
        headers: { 'Content-Type': 'text/csv' },
      }),
    )
  } catch (e) {
    problem.value = problemOf(e)
  } finally {
    busy.value = false
  }
}

async function choose(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  report.value = null
  if (!chosen) return
  file.value = { name: chosen.name, text: await chosen.arrayBuffer() }
  input.value = ''
  await send(true)
}
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1 v-if="report?.stored">
        Imported: {{ count(report.new_units, 'unit') }} with {{ count(report.new_coils, 'coil') }}.
      </h1>
      <h1 v-else>Import units from a CSV file</h1>
      <div class="actions">
        <a class="button" href="/api/v1/register/template" download>Download a template</a>
        <RouterLink class="button" to="/portfolio">Portfolio</RouterLink>
      </div>
    </div>
    <template v-if="!report?.stored">
      <p>
        One row per coil, with the columns
        <strong>site, placement, tag, class, coil role, last clean</strong>. UTF-8, comma separated. Sides and
        intervals come from the class.
      </p>
      <p class="soft">
        Last clean: a date such as 2025-09-14, “about 2025-09”, never, or unknown. A known date is taken as a
        thorough clean. All rows go in, or none.
      </p>
      <label class="field drop">
        <span class="label">File</span>
        <input type="file" accept=".csv,text/csv" name="file" @change="choose" />
        <span v-if="file" class="chosen">{{ file.name }}</span>
      </label>
    </template>
    <ProblemNote :problem="problem" />
    <template v-if="report && !report.stored">
      <template v-if="report.problems.length">
        <h2>{{ count(report.problems.length, 'problem') }}; nothing is taken in until they are gone.</h2>
        <table class="lines problems">
          <thead>
            <tr>
              <th scope="col" class="number">Line</th>
              <th scope="col">Column</th>
              <th scope="col">What is wrong</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(p, i) in report.problems" :key="i">
              <td class="number">{{ p.line }}</td>
              <td>{{ p.column || 'whole line' }}</td>
              <td>{{ p.reason }}</td>
            </tr>
          </tbody>
        </table>
      </template>
      <template v-else>
        <h2>
          {{ count(report.rows, 'row') }}: {{ count(report.new_units, 'new unit') }} with
          {{ count(report.new_coils, 'coil') }}, {{ count(report.new_placements, 'new placement') }}.
        </h2>
        <p v-if="report.new_sites.length">
          New {{ report.new_sites.length === 1 ? 'site' : 'sites' }}:
          <strong>{{ report.new_sites.join(', ') }}</strong>. Check the spelling if you meant one that is
          there already.
        </p>
        <ElButton type="primary" :loading="busy" @click="send(false)"
          >Import {{ count(report.new_units, 'unit') }}</ElButton
        >
      </template>
    </template>
    <details
      v-if="!report?.stored"
      class="classes"
      :open="report?.problems.some((p) => p.column === 'class')"
    >
      <summary>Classes and their coil roles</summary>
      <table class="lines">
        <tbody>
          <tr v-for="c in catalogue.data.value?.classes ?? []" :key="c.id">
            <td>{{ c.name }}</td>
            <td>{{ c.coil_roles.join(', ') }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.drop {
  margin: 16px 0;
}
.drop input {
  width: 96px;
}
.chosen {
  margin-left: 10px;
}
.problems {
  max-width: 900px;
}
.problems .number {
  width: 60px;
}
.classes {
  margin-top: 20px;
  max-width: 600px;
}
</style>
