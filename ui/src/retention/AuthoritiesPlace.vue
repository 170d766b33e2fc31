<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import AuthorityDialog from './AuthorityDialog.vue'
import SchedulePage from './SchedulePage.vue'

type Authority = Schemas['AuthorityView']
const { list, put } = useUrl()
const open = computed(() => list('authority')[0] ?? null)
const words = ref('')
const { act, busy, problem } = useAct(['schedule'])
const { data, error } = useQuery({ queryKey: ['authorities'], queryFn: () => take(api.GET('/api/authorities')) })
const rows = computed(() =>
  (data.value ?? []).filter((a) =>
    `${a.code} ${a.definition.citation} ${a.definition.issuer} ${a.definition.jurisdiction} ${a.definition.subject}`
      .toLowerCase()
      .includes(words.value.trim().toLowerCase()),
  ),
)
const editing = ref<Authority | 'new' | null>(null)
const wrong = (a: Authority) =>
  a.series.filter((s) => s.finding.verdict === 'short' || s.finding.verdict === 'exceedsMost').length
const addLibrary = () => act(() => take(api.POST('/api/authorities/library')))
const remove = (a: Authority) =>
  act(() => take(api.DELETE('/api/authorities/{id}', { params: { path: { id: a.id } }, ...ifMatch(a.revision) })))
</script>

<template>
  <SchedulePage
    title="Authorities"
    note="what the series rest on, and whether they meet it"
    :problem="error?.message ?? problem?.message"
  >
    <template #acts>
      <el-input
        v-model="words"
        class="words"
        placeholder="Citation, issuer, subject"
        aria-label="Filter the authorities"
        clearable
      />
      <template v-if="may('writeSchedule')"
        ><el-button :loading="busy" @click="addLibrary">Add the starter library</el-button
        ><el-button @click="editing = 'new'">New authority</el-button></template
      >
    </template>
    <section v-if="data?.length === 0" class="panel block">
      <h2>No authority yet</h2>
      <p class="quiet">
        An authority is the law, regulation or contract that a series rests on, with the least and perhaps the most it
        demands. The starter library brings some well-known ones; its periods are from memory, so verify each one that
        you use.
      </p>
    </section>
    <section v-else class="panel block" aria-label="Authorities">
      <table class="sheet">
        <thead>
          <tr>
            <th class="first">Authority</th>
            <th>About</th>
            <th>Demands</th>
            <th>Series</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="a in rows" :key="a.id">
            <tr :class="{ open: open === a.code }">
              <td>
                <button
                  class="link"
                  :aria-expanded="open === a.code"
                  @click="put({ authority: open === a.code ? null : a.code })"
                >
                  {{ a.code }}
                </button>
                <div class="small quiet">{{ a.definition.jurisdiction }}</div>
              </td>
              <td>{{ a.definition.subject }}</td>
              <td>{{ a.demands }}</td>
              <td>
                <span v-if="wrong(a)" class="lacking"
                  >{{ wrong(a) }} of {{ plural(a.series.length, 'series', 'series') }} at odds</span
                ><span v-else-if="a.series.length">{{ plural(a.series.length, 'series', 'series') }}</span
                ><span v-else class="quiet">none</span>
              </td>
            </tr>
            <tr v-if="open === a.code" class="detail">
              <td colspan="4">
                <dl class="kv">
                  <dt>Citation</dt>
                  <dd>{{ a.definition.citation }}</dd>
                  <dt>Issuer</dt>
                  <dd>{{ a.definition.issuer || 'not given' }}</dd>
                  <dt>Where the value comes from</dt>
                  <dd>{{ a.definition.origin }}</dd>
                  <template v-if="a.definition.note"
                    ><dt>Note</dt>
                    <dd>{{ a.definition.note }}</dd></template
                  >
                  <dt>Series</dt>
                  <dd>
                    <div v-for="s in a.series" :key="s.id">
                      <RouterLink :to="`/schedule/${s.id}`">{{ s.code }} {{ s.title }}</RouterLink>
                      {{ ' ' }}
                      <span :class="s.finding.verdict === 'meets' ? 'quiet' : 'lacking'">{{ s.finding.sentence }}</span>
                    </div>
                    <span v-if="!a.series.length" class="quiet">none rests on it</span>
                  </dd>
                </dl>
                <p v-if="may('writeSchedule')" class="acts-row">
                  <el-button size="small" @click="editing = a">Change</el-button
                  ><el-button size="small" @click="remove(a)">Remove</el-button>
                </p>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </section>
    <AuthorityDialog v-if="editing" :authority="editing === 'new' ? null : editing" @close="editing = null" />
  </SchedulePage>
</template>

<style scoped>
.words {
  width: 220px;
}
.first {
  width: 210px;
}
td .kv {
  margin: 4px 0 8px;
}
</style>
