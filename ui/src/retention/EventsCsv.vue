<script setup lang="ts">
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { count, plural } from '@/shared/format'

const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const csv = ref('')
const view = ref<Schemas['TriggerEventsCsvView'] | null>(null)
const { act, busy, problem } = useAct(['schedule'])
const due = computed(() => view.value?.consequences?.figures.becomeDue.items ?? 0)

const second = computed(() => !!view.value?.consequences?.secondPerson)
const why = ref('')

async function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  csv.value = await file.text()
  view.value = null
  input.value = ''
  await act(async () => (view.value = await take(api.POST('/api/trigger-events/csv', { body: { csv: csv.value } }))))
}
async function apply() {
  const done = await act(
    async () =>
      (view.value = await take(
        api.POST('/api/trigger-events/csv', {
          body: {
            csv: csv.value,
            fingerprint: view.value!.consequences!.fingerprint,
            why: why.value.trim() || null,
          },
        }),
      )),
  )
  if (done) {
    const asked = view.value!.consequences?.proposalId
    ElMessage({
      message: asked
        ? 'Asked for. They are reported once another person agrees.'
        : `${plural(view.value!.added, 'event')} reported.`,
      type: 'success',
    })
    shown.value = false
  }
}
</script>

<template>
  <el-dialog v-model="shown" title="Bring in a CSV of events" width="680" append-to-body @closed="emit('close')">
    <p>
      The first line names the columns: <code>type,subject,date</code>, and perhaps <code>note,reference</code>. What is
      known already is passed over; nothing is reported unless every line is good.
    </p>
    <input type="file" accept=".csv,text/csv" aria-label="CSV file" @change="choose" />
    <template v-if="view">
      <p>
        {{ plural(view.added, 'new event') }}, {{ count(view.known) }} known already<template v-if="view.refused.length"
          >, <span class="lacking">{{ plural(view.refused.length, 'line') }} refused</span></template
        >.
      </p>
      <table v-if="view.refused.length" class="sheet">
        <thead>
          <tr>
            <th class="num">Line</th>
            <th>Column</th>
            <th>Why</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in view.refused" :key="`${r.line}${r.column}`">
            <td class="num">{{ r.line }}</td>
            <td>{{ r.column }}</td>
            <td>{{ r.why }}</td>
          </tr>
        </tbody>
      </table>
      <Consequences
        v-if="view.consequences"
        :view="view.consequences"
        :load="
          (group) => take(api.POST('/api/trigger-events/csv/{group}', { params: { path: { group } }, body: { csv } }))
        "
        of="file"
      />
      <template v-if="second"
        ><label class="label" for="csv-why">Why</label
        ><el-input id="csv-why" v-model="why" type="textarea" :rows="2" maxlength="1000"
      /></template>
    </template>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button
        :type="due ? 'danger' : 'primary'"
        :disabled="!view?.consequences || !view.added || (second && !why.trim())"
        :loading="busy"
        @click="apply"
        >{{
          second
            ? 'Ask a second person'
            : view?.consequences
              ? `Report ${plural(view.added, 'event')}${due ? ` — ${becomeDue(due)}` : ''}`
              : 'Report them'
        }}</el-button
      ></template
    >
  </el-dialog>
</template>
