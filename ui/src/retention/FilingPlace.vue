<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import GroupList from '@/shared/GroupList.vue'
import { useUrl } from '@/shared/url'
import FilingRuleDialog from './FilingRuleDialog.vue'
import FilingRulePane from './FilingRulePane.vue'
import { foundBy, precisionWords, type RuleBeginning } from './filing'
import SchedulePage from './SchedulePage.vue'
import SuggestionsPanel from './SuggestionsPanel.vue'
import { seriesNames } from '@/shared/series'

const { number } = useUrl()
const open = number('rule')
const { act, busy, problem } = useAct(['filing'])
const { data, error } = useQuery({ queryKey: ['filing-rules'], queryFn: () => take(api.GET('/api/filing-rules')) })
const clashes = useQuery({ queryKey: ['filing-clashes'], queryFn: () => take(api.GET('/api/filing-rules/clashes')) })
const defaults = useQuery({ queryKey: ['filing-defaults'], queryFn: () => take(api.GET('/api/filing-defaults')) })
const containers = useQuery({ queryKey: ['containers'], queryFn: () => take(api.GET('/api/containers')) })
const series = useQuery(seriesNames)
const found = ref<Schemas['FilingRuleView'] | null>(null)
const editing = ref<Schemas['FilingRuleView'] | 'new' | null>(null)
/** What a new rule begins with, where a suggestion asked for it. */
const beginning = ref<RuleBeginning>()
function begin(with_?: RuleBeginning) {
  beginning.value = with_
  editing.value = 'new'
}
const chosen = computed(() => data.value?.find((r) => r.id === open.value))
const place = reactive({
  containerId: null as number | null,
  folder: '',
  seriesId: null as number | null,
  confirmed: false,
})
const worm = computed(() => series.data.value?.find((s) => s.id === place.seriesId)?.grade === 'worm')
// What was confirmed of one series is not said of the next.
watch(
  () => place.seriesId,
  () => (place.confirmed = false),
)
const stateWords = { trial: 'on trial', active: 'in force', stopped: 'stopped' }

async function setDefault() {
  const { containerId, folder, seriesId, confirmed } = place
  if (
    !(await act(() =>
      take(api.PUT('/api/filing-defaults', { body: { containerId: containerId!, folder, seriesId, confirmed } })),
    ))
  )
    return
  Object.assign(place, { containerId: null, folder: '', seriesId: null, confirmed: false })
}
const removeDefault = (d: Schemas['FilingDefaultView']) =>
  act(() =>
    take(api.PUT('/api/filing-defaults', { body: { containerId: d.containerId, folder: d.folder, seriesId: null } })),
  )
</script>

<template>
  <SchedulePage
    title="Filing"
    note="how items come under their series without a hand"
    :problem="error?.message ?? problem?.message"
  >
    <template #acts
      ><el-button v-if="may('writeSchedule')" type="primary" @click="begin()">New filing rule</el-button></template
    >
    <section class="panel block" aria-label="Filing rules">
      <h2>Filing rules</h2>
      <p v-if="data?.length === 0" class="quiet">
        None yet. A filing rule looks for words, fields and sensitive kinds, and files what it finds under a series. It
        is tried on samples first, never overrides what was filed by hand or by a place’s default, and never files under
        WORM.
      </p>
      <table v-else class="sheet">
        <thead>
          <tr>
            <th>Rule</th>
            <th>Finds</th>
            <th>Files under</th>
            <th class="num">Priority</th>
            <th class="num">Finds now</th>
            <th class="num">Filed</th>
            <th>Precision</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in data ?? []" :key="r.id" :class="{ open: r.id === open }">
            <td>
              <button class="link" :aria-expanded="r.id === open" @click="open = r.id === open ? null : r.id">
                {{ r.name }}
              </button>
              {{ ' ' }}
              <span class="small quiet">{{ stateWords[r.state] }}</span>
            </td>
            <td class="finds">{{ foundBy(r.definition) }}</td>
            <td>
              <RouterLink :to="`/schedule/${r.series.id}`">{{ r.series.code }}</RouterLink>
            </td>
            <td class="num">{{ r.priority }}</td>
            <td class="num">
              <span
                v-if="r.matches === null"
                title="It looks for sensitive data; your role does not include knowing where that lies."
                >–</span
              ><button
                v-else-if="r.matches && r.mayWrite"
                class="link"
                :aria-label="`${count(r.matches)} items that ${r.name} finds`"
                @click="found = r"
              >
                {{ count(r.matches) }}</button
              ><span v-else>{{ count(r.matches) }}</span>
            </td>
            <td class="num">
              <RouterLink v-if="r.filed" :to="`/content?filingRule=${r.id}`">{{ count(r.filed) }}</RouterLink><span
                v-else
                >0</span
              >
            </td>
            <td>{{ precisionWords(r.precision) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-for="c in clashes.data.value ?? []" :key="`${c.winnerId}-${c.otherId}`" class="lacking">
        “{{ c.winner }}” and “{{ c.other }}” both find {{ plural(c.items, 'item') }}: {{ c.winnerSeries }} would win
        over {{ c.otherSeries }}.
      </p>
    </section>
    <FilingRulePane v-if="chosen" :key="chosen.id" :rule="chosen" @change="editing = chosen" />
    <SuggestionsPanel v-if="may('fileContent')" @rule="begin" />
    <section class="panel block" aria-label="Defaults of places">
      <h2>Defaults of places</h2>
      <p class="small quiet">
        What arrives in a container or folder is filed under its default. What lies there already is filed from its
        <RouterLink to="/content">list</RouterLink>, with consequences.
      </p>
      <table v-if="defaults.data.value?.length" class="sheet">
        <thead>
          <tr>
            <th>Container</th>
            <th>Folder</th>
            <th>Series</th>
            <th><span class="sr">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in defaults.data.value" :key="d.id">
            <td>{{ d.container }}</td>
            <td>{{ d.folder || 'all of it' }}</td>
            <td>
              <RouterLink :to="`/schedule/${d.series.id}`">{{ d.series.code }} {{ d.series.title }}</RouterLink>
            </td>
            <td class="num">
              <button
                v-if="d.mayWrite"
                class="link"
                :aria-label="`Remove the default of ${d.container}`"
                @click="removeDefault(d)"
              >
                Remove
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <form v-if="may('writeSchedule')" class="acts-row" @submit.prevent="setDefault">
        <el-select v-model="place.containerId" filterable placeholder="Container" aria-label="Container" class="pick"
          ><el-option v-for="c in containers.data.value ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></el-select>
        <el-input v-model="place.folder" placeholder="Folder, or all of it" aria-label="Folder" class="folder" />
        <el-select v-model="place.seriesId" filterable placeholder="Series" aria-label="Series" class="pick"
          ><el-option
            v-for="s in series.data.value?.filter((s) => s.state !== 'retired') ?? []"
            :key="s.id"
            :value="s.id"
            :label="`${s.code} ${s.title}`"
        /></el-select>
        <el-button
          native-type="submit"
          :disabled="!place.containerId || !place.seriesId || (worm && !place.confirmed)"
          :loading="busy"
          >Set the default</el-button
        >
        <label v-if="worm" class="lacking"
          ><input v-model="place.confirmed" type="checkbox" /> It is WORM: all that arrives there comes under it for
          good, and nobody can undo that.</label
        >
      </form>
    </section>
    <GroupList
      v-if="found"
      :id="['found', found.id]"
      :title="`${plural(found.matches ?? 0, 'item')} that “${found.name}” finds`"
      :load="
        () =>
          take(
            api.POST('/api/filing-rules/{id}/consequences/{group}', {
              params: { path: { id: found!.id, group: 'all' } },
            }),
          )
      "
      @close="found = null"
    />
    <FilingRuleDialog
      v-if="editing"
      :rule="editing === 'new' ? null : editing"
      :beginning="beginning"
      @close="editing = null"
      @made="(id) => (open = id)"
    />
  </SchedulePage>
</template>

<style scoped>
.pick {
  width: 230px;
}
.folder {
  width: 170px;
}
.finds {
  max-width: 300px;
  overflow-wrap: anywhere;
}
p.lacking {
  margin: 0;
}
</style>
