<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import RemovalWays from './RemovalWays.vue'
import ReviewerLines from './ReviewerLines.vue'
import { decisionWords } from './words'

/**
 * A reviewer's own page: their lines and nothing else, on a phone or by keyboard. One line at a time: k keeps, r removes,
 * c says that one cannot say, u takes the last answer back.
 */
const route = useRoute()
const token = computed(() => String(route.params.token))
const path = computed(() => ({ params: { path: { token: token.value } } }))
const { data, error } = useQuery({
  queryKey: computed(() => ['review', token.value]),
  queryFn: () => take(api.GET('/api/review/{token}', path.value)),
})
const { act, busy, problem } = useAct([], {})
const at = ref(0)
const reason = ref('')
const lines = ref<Schemas['ReviewLineView'][]>([])
watch(data, (page) => {
  if (!page) return
  lines.value = page.lines
  const first = page.lines.findIndex((l) => l.decision === 'open')
  at.value = first < 0 ? 0 : first
})
const line = computed(() => lines.value[at.value])
// A reason belongs to its line: the next begins with what was said there, most often nothing.
watch(
  () => line.value?.id,
  () => (reason.value = line.value?.reason ?? ''),
)
const changes = ref<Schemas['DirectoryChange'][] | null>(null)
const left = computed(() => lines.value.filter((l) => l.decision === 'open').length)
const last = ref<number[]>([])
async function answer(
  ids: number[],
  decision: Schemas['LineDecision'],
  chosen: Schemas['DirectoryChange'][] | null = null,
) {
  const done = await act(() =>
    take(
      api.POST('/api/review/{token}/answers', {
        ...path.value,
        body: { lines: ids, decision, reason: reason.value, changes: chosen },
      }),
    ),
  )
  if (!done) return
  const why = reason.value
  lines.value = lines.value.map((l) => (ids.includes(l.id) ? { ...l, decision, reason: why } : l))
  if (decision === 'open') {
    at.value = lines.value.findIndex((l) => l.id === ids[0])
    return
  }
  last.value = ids
  const next = lines.value.findIndex((l, i) => i > at.value && l.decision === 'open')
  at.value =
    next >= 0
      ? next
      : Math.max(
          0,
          lines.value.findIndex((l) => l.decision === 'open'),
        )
}
const decide = (decision: Schemas['LineDecision']) =>
  line.value && answer([line.value.id], decision, decision === 'remove' ? changes.value : null)
/** All open lines with the same advice and the same first ground. */
const alike = computed(() =>
  lines.value.filter(
    (l) => l.decision === 'open' && l.adviseRemoval === line.value?.adviseRemoval && ground(l) === ground(line.value),
  ),
)
const ground = (l?: Schemas['ReviewLineView']) => l?.grounds[0]?.replace(/\d+.*$/, '') ?? ''
const opened = ref<number | null>(null)
function open() {
  if (!line.value) return
  opened.value = line.value.id
  void take(
    api.POST('/api/review/{token}/lines/{line}/opening', {
      params: { path: { token: token.value, line: line.value.id } },
    }),
  ).catch(() => undefined)
}
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (busy.value || (e.target as HTMLElement).closest('input, textarea') || e.ctrlKey || e.metaKey || e.altKey) return
  if (e.key === 'k') void decide('keep')
  else if (e.key === 'r') void decide('remove')
  else if (e.key === 'c') void decide('cannotSay')
  else if (e.key === 'u' && last.value.length) void answer(last.value, 'open')
  else if (e.key === 'g') open()
})
</script>

<template>
  <main class="reviewer">
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <header>
        <h1>{{ data.review }}</h1>
        <p class="quiet small">{{ data.name }} · {{ data.ended ? 'ended' : `answers until ${day(data.endsOn)}` }}</p>
        <p v-if="data.words">{{ data.words }}</p>
      </header>
      <el-progress
        :percentage="lines.length ? Math.round(((lines.length - left) / lines.length) * 100) : 100"
        :stroke-width="6"
        :show-text="false"
        color="var(--sea)"
        aria-label="How much is decided"
      />
      <p class="small">
        {{
          left ? `${plural(left, 'line')} of ${lines.length} left` : `All ${lines.length} lines are decided. Thank you.`
        }}
      </p>
      <article v-if="line && !data.ended" class="panel block" :aria-label="`${line.personName} on ${line.whatName}`">
        <p class="question">
          Does <strong>{{ line.personName }}</strong> still need <strong>{{ line.whatName }}</strong>
          <span class="quiet"> ({{ line.roles }})</span>?
        </p>
        <p v-if="line.meanwhile" class="lacking">▲ {{ line.meanwhile }}</p>
        <p class="advice" :class="{ remove: line.adviseRemoval }">
          Advice: <strong>{{ line.adviseRemoval ? 'remove' : 'keep' }}</strong>. {{ line.grounds[0] }}
          <button v-if="opened !== line.id" class="link" @click="open">Grounds</button>
        </p>
        <template v-if="opened === line.id">
          <ul>
            <li v-for="g in line.grounds" :key="g">{{ g }}</li>
          </ul>
        </template>
        <RemovalWays v-model="changes" :token="token" :line="line" />
        <p v-for="(f, i) in line.former" :key="i" class="small">
          Before you, {{ f.reviewer }} said
          <strong>{{ f.decision === 'open' ? 'nothing' : decisionWords[f.decision] }}</strong>{{
            f.reason ? `: “${f.reason}”` : '.'
          }}
        </p>
        <label class="sr" for="review-reason">Reason</label>
        <el-input
          id="review-reason"
          v-model="reason"
          :placeholder="data.reasonsRequired ? 'Reason (required)' : 'Reason (optional)'"
        />
        <p v-if="line.decision !== 'open'" class="small">
          You said: {{ decisionWords[line.decision] }}. You may change it until the end.
        </p>
        <div class="buttons">
          <el-button :loading="busy" @click="decide('keep')">Keep <kbd>k</kbd></el-button>
          <el-button :loading="busy" @click="decide('remove')">Remove <kbd>r</kbd></el-button>
          <el-button :loading="busy" @click="decide('cannotSay')">Cannot say <kbd>c</kbd></el-button>
        </div>
        <p v-if="alike.length > 1" class="small">
          <button
            class="link"
            :disabled="busy"
            @click="
              answer(
                alike.map((l) => l.id),
                line.adviseRemoval ? 'remove' : 'keep',
              )
            "
          >
            {{ line.adviseRemoval ? 'Remove' : 'Keep' }} all {{ alike.length }} with this ground
          </button>
        </p>
      </article>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="last.length && !data.ended" class="small">
        <button class="link" @click="answer(last, 'open')">Undo the last answer <kbd>u</kbd></button>
      </p>
      <ReviewerLines :lines="lines" :at="at" @go="at = $event" />
    </template>
  </main>
</template>

<style scoped>
.reviewer {
  max-width: 620px;
  margin: 0 auto;
  padding: 18px 14px 40px;
  display: grid;
  gap: 12px;
  align-content: start;
}
h1 {
  font-size: 21px;
}
p,
ul {
  margin: 0;
}
.question {
  font: 400 19px/1.5 var(--serif);
}
.advice {
  border-left: 3px solid var(--sea);
  padding-left: 10px;
}
.advice.remove {
  border-color: var(--copper);
}
.buttons {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.buttons .el-button {
  margin: 0;
  height: 44px;
  white-space: normal;
}
kbd {
  font-size: 11px;
  color: var(--ink-3);
  margin-left: 4px;
}
@media (max-width: 480px) {
  kbd {
    display: none;
  }
}
</style>
