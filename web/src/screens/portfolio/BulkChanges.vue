<script setup lang="ts">
import { ElButton } from 'element-plus'

import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { count, moment } from '../../words'
import { useSubmit } from '../../parts/useSubmit'

const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/bulk-changes')))
const { refused, submit } = useSubmit()
async function undo(id: string) {
  await submit(async () => {
    await ask(api.POST('/bulk-changes/{change_id}/undo', { params: { path: { change_id: id } } }))
    await reload()
  })
}
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <div>
        <p class="soft"><RouterLink to="/portfolio">Portfolio</RouterLink></p>
        <h1>Bulk changes</h1>
      </div>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the bulk changes" @retry="reload" />
    <ProblemNote :problem="refused" />
    <p v-if="data && !data.length" class="notice">
      None yet. Choose units in the portfolio and change them together.
    </p>
    <table v-if="data?.length" class="lines">
      <thead>
        <tr>
          <th scope="col">When</th>
          <th scope="col">Who</th>
          <th scope="col">What</th>
          <th scope="col">Where</th>
          <th scope="col"></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in data" :key="c.id">
          <td class="nowrap">{{ moment(c.at) }}</td>
          <td>{{ c.by }}</td>
          <td>{{ c.what }}</td>
          <td>
            {{ count(c.lines.filter((l) => !l.skipped).length, 'place') }}:
            {{
              c.lines
                .filter((l) => !l.skipped)
                .slice(0, 6)
                .map((l) => `${l.tag} ${l.from || '(empty)'} → ${l.to}`)
                .join('; ')
            }}
            {{ c.lines.length > 6 ? '…' : '' }}
          </td>
          <td>
            <span v-if="c.undone" class="soft">undone</span>
            <ElButton v-else size="small" @click="undo(c.id)">Undo</ElButton>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
