<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { activitySearch } from './own'

/** What a matter's custodians did in the logs of other systems, and what of it the matter keeps. */
const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const form = reactive({ custodians: [] as number[], query: '', from: '', to: '', name: '' })
const kept = useQuery({
  queryKey: ['matter', matter.id, 'investigations'],
  queryFn: () => take(api.GET('/api/matters/{id}/investigations', path)),
})
const { act, busy, problem } = useAct(['matters'])
const found = ref<Schemas['ActivityFound'] | null>(null)
const sweep = computed<Schemas['ActivitySweep']>(() => ({
  custodians: form.custodians,
  query: form.query.trim() || null,
  from: form.from || undefined,
  to: form.to || undefined,
}))
/** What was counted; another question is counted anew before it is kept. */
const counted = ref('')
const tally = () =>
  act(async () => {
    found.value = null
    const asked = JSON.stringify(sweep.value)
    found.value = await take(api.POST('/api/matters/{id}/activity', { ...path, body: sweep.value }))
    counted.value = asked
  })
const keep = async () => {
  const done = await act(() =>
    take(
      api.POST('/api/matters/{id}/activity/investigations', {
        ...path,
        body: { sweep: sweep.value, name: form.name.trim() },
      }),
    ),
  )
  if (done) [form.name, found.value] = ['', null]
}
const current = computed(() => counted.value === JSON.stringify(sweep.value))
</script>

<template>
  <section class="activity" aria-label="Activity of custodians">
    <h2>Activity of custodians</h2>
    <p v-if="matter.custodians.length === 0" class="quiet">Nobody yet; a custodian is added under Custodians.</p>
    <p v-else-if="!may('readActivity')" class="quiet small">
      A member who may read activity sweeps the logs of other systems for what the custodians did.
    </p>
    <form v-else class="asked" @submit.prevent="tally">
      <el-select
        v-model="form.custodians"
        multiple
        collapse-tags
        size="small"
        class="who"
        placeholder="All custodians"
        aria-label="Custodians"
        ><el-option v-for="c in matter.custodians" :key="c.id" :value="c.id" :label="c.name"
      /></el-select>
      <label class="small">from <input v-model="form.from" type="date" /></label>
      <label class="small">to <input v-model="form.to" type="date" /></label>
      <el-input
        v-model="form.query"
        size="small"
        class="words"
        placeholder="whatever they did, or action = file.delete"
        aria-label="Words or query"
      />
      <el-button size="small" native-type="submit" :loading="busy">Count</el-button>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="found && current">
      <table class="sheet">
        <thead>
          <tr>
            <th>Custodian</th>
            <th class="num">Events</th>
            <th>First</th>
            <th>Last</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in found.byCustodian" :key="c.id">
            <td>{{ c.name }}</td>
            <td class="num">
              <RouterLink v-if="c.events" :to="activitySearch(c.question)">{{ count(c.events) }}</RouterLink><template
                v-else
                >0</template
              >
            </td>
            <td>{{ c.first ? moment(c.first) : '–' }}</td>
            <td>{{ c.last ? moment(c.last) : '–' }}</td>
          </tr>
        </tbody>
      </table>
      <form v-if="found.events && matter.part !== 'reader'" class="asked" @submit.prevent="keep">
        <el-input v-model="form.name" size="small" class="words" placeholder="Name" aria-label="Name of what is kept" />
        <el-button size="small" type="primary" native-type="submit" :disabled="!form.name.trim()" :loading="busy"
          >Keep {{ plural(found.events, 'event') }} as they are</el-button
        >
        <span class="small quiet">frozen, with proofs of what is sealed</span>
      </form>
    </template>
    <ul v-if="kept.data.value?.length" aria-label="Investigations of this matter">
      <li v-for="i in kept.data.value" :key="i.id">
        <strong>{{ i.name }}</strong>, {{ plural(i.events, 'event') }}, by {{ i.by
        }}<template v-if="i.frozenAt">, frozen {{ day(i.frozenAt.slice(0, 10)) }}</template
        ><template v-if="may('readActivity')"
          >: <RouterLink :to="`/activity/thread?investigation=${i.id}`">open</RouterLink>,
          <a :href="`/api/investigations/${i.id}/file`" download>file</a></template
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.activity {
  margin-top: 18px;
}
h2 {
  font-size: 16px;
  margin-bottom: 8px;
}
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin-bottom: 10px;
}
.who {
  width: 200px;
}
.words {
  width: 280px;
}
ul {
  margin: 10px 0 0;
  padding-left: 18px;
}
</style>
