<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, moment, plural } from '@/shared/format'
import { periodWords } from '@/shared/words'
import ChannelForm from './ChannelForm.vue'
import ChannelIntake from './ChannelIntake.vue'
import CostPlanner from './CostPlanner.vue'
import NetworksPanel from './NetworksPanel.vue'
import { feedWords, formatWords } from './words'

const { data, error } = useQuery({ queryKey: ['channels'], queryFn: () => take(api.GET('/api/channels')) })
const editing = ref<number | 'new' | null>(null)
const shown = ref<number | null>(null)
const planning = ref(false)
const naming = ref(false)
const { act, busy, problem } = useAct(['channels', 'activity'])
const seal = () => act(() => take(api.POST('/api/channels/seal')))
const edited = computed(() => data.value?.find((c) => c.id === editing.value))
/** The source's clock, as far as it can be told from when its lines arrive. */
const skew = (c: Schemas['ChannelView']) => {
  const live =
    (c.feed === 'http' || c.feed === 'syslog') && c.lastReceivedAt && Math.abs(c.skewMilliseconds) < 6 * 3_600_000
  if (!live) return '–'
  return Math.abs(c.skewMilliseconds) < 120_000
    ? 'within 2 minutes'
    : `about ${Math.round(c.skewMilliseconds / 60_000)} min`
}
</script>

<template>
  <main class="page">
    <header>
      <h1>Channels</h1>
      <span class="quiet">the logs that are taken in, what each admits and how long it is kept</span>
      <span class="acts">
        <el-button @click="naming = !naming">Networks and places</el-button>
        <el-button @click="planning = !planning">Plan the cost</el-button>
        <el-button :loading="busy" @click="seal">Seal the days that are over</el-button>
        <el-button type="primary" @click="editing = 'new'">Connect a log</el-button>
      </span>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <CostPlanner v-if="planning" />
    <NetworksPanel v-if="naming" />
    <section v-if="data?.length === 0" class="panel block">
      <h2>No log is connected yet</h2>
      <p>
        A channel takes one system’s log: lines sent with a key, syslog, files in a folder or handed over. Within a
        minute you see what is in it.
      </p>
    </section>
    <section v-for="c in data ?? []" :key="c.id" class="panel block channel" :aria-label="c.settings.title">
      <header>
        <h2>{{ c.settings.title }}</h2>
        <span class="quiet small">{{ c.name }} · {{ feedWords[c.feed] }} · {{ formatWords[c.settings.format] }}</span>
        <span class="acts">
          <span v-if="!c.settings.connected" class="closed">◇ closed</span>
          <button class="link" @click="editing = c.id">Change</button>
          <button class="link" :aria-expanded="shown === c.id" @click="shown = shown === c.id ? null : c.id">
            {{ shown === c.id ? 'Fold' : 'Key, files, rejected lines' }}
          </button>
        </span>
      </header>
      <dl>
        <div>
          <dt>Last event</dt>
          <dd>{{ moment(c.lastEventAt) }}</dd>
        </div>
        <div>
          <dt>In the last hour</dt>
          <dd>
            {{ count(c.lastHour) }} <span class="quiet small">usual {{ c.usualAnHour }}</span>
          </dd>
        </div>
        <div>
          <dt>Taken</dt>
          <dd>{{ count(c.taken) }}</dd>
        </div>
        <div>
          <dt>Rejected</dt>
          <dd>
            <button v-if="c.rejected" class="link lacking" @click="shown = c.id">
              {{ count(c.rejected) }}</button><template v-else>none</template>
          </dd>
        </div>
        <div>
          <dt>Duplicates</dt>
          <dd>{{ count(c.duplicates) }}</dd>
        </div>
        <div>
          <dt>Not admitted</dt>
          <dd>{{ count(c.notAdmitted) }}</dd>
        </div>
        <div>
          <dt>Too old</dt>
          <dd>{{ count(c.tooOld) }}</dd>
        </div>
        <div>
          <dt>Clock differs</dt>
          <dd>{{ skew(c) }}</dd>
        </div>
        <div>
          <dt>Kept</dt>
          <dd>{{ periodWords(c.settings.retention) }}</dd>
        </div>
        <div>
          <dt>Sealed</dt>
          <dd>{{ plural(c.sealedDays, 'day') }}, {{ bytes(c.sealedBytes) }}</dd>
        </div>
        <div>
          <dt>Read by</dt>
          <dd>
            {{
              c.settings.openToAnalysts ? 'all analysts' : plural(c.settings.readers?.length ?? 0, 'person', 'people')
            }}
          </dd>
        </div>
      </dl>
      <ChannelIntake v-if="shown === c.id" :channel="c" />
    </section>
    <ChannelForm v-if="editing" :key="editing" :channel="edited" @close="editing = null" />
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 14px;
  align-content: start;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
.acts {
  margin-left: auto;
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.acts .el-button {
  margin: 0;
}
.channel dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 8px 16px;
  margin: 0;
}
dt {
  font-size: 12px;
  color: var(--ink-3);
}
dd {
  margin: 0;
}
.closed {
  color: var(--copper);
}
</style>
