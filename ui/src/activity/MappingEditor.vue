<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'

/** Tries the first lines of a file, and says which column of a table becomes which field; nothing is written. */
const mapping = defineModel<Schemas['EventMapping'] | null>({ required: true })
const { format } = defineProps<{ format: Schemas['EventFormat'] }>()
const fields = [
  'id',
  'time',
  'actor',
  'action',
  'object',
  'container',
  'target',
  'address',
  'device',
  'application',
  'outcome',
  'code',
  'amount',
  'category',
]
const text = ref('')
const header = ref<readonly string[]>(Object.keys(mapping.value?.columns ?? {}))
const columns = ref<Record<string, string>>({ ...mapping.value?.columns })
const action = ref(mapping.value?.constants?.action ?? '')
const pattern = ref(mapping.value?.timePattern ?? '')
const zone = ref(mapping.value?.zone ?? '')
const lines = ref<readonly Schemas['TriedLine'][]>([])
const { act, busy, problem } = useAct([])
const table = computed(() => format === 'csv')

watch([columns, action, pattern, zone], put, { deep: true })
function put() {
  if (!table.value) return
  mapping.value = {
    columns: columns.value,
    constants: action.value ? { action: action.value } : null,
    words: mapping.value?.words ?? null,
    timePattern: pattern.value || null,
    zone: zone.value || null,
  }
}
async function open(event: Event) {
  text.value = (await (event.target as HTMLInputElement).files?.[0]?.slice(0, 200_000).text()) ?? ''
  await attempt()
}
const attempt = () =>
  act(async () => {
    const usable = table.value && Object.values(columns.value).includes('time')
    const result = await take(
      api.POST('/api/channels/trial', { body: { text: text.value, format, mapping: usable ? mapping.value : null } }),
    )
    header.value = result.header
    for (const h of header.value) columns.value[h] ??= guess(h)
    lines.value = table.value && !usable ? [] : result.lines
  })
/** What a column most likely is, by its name. */
function guess(name: string) {
  const n = name.toLowerCase()
  const hints: [RegExp, string][] = [
    [/time|date|when/, 'time'],
    [/user|who|actor|account/, 'actor'],
    [/\bip\b|addr/, 'address'],
    [/result|status|outcome/, 'outcome'],
    [/action|operation|event$/, 'action'],
    [/object|file|path|item/, 'object'],
  ]
  const found = hints.find(([h]) => h.test(n))?.[1] ?? ''
  return Object.values(columns.value).includes(found) ? '' : found
}
const says = (line: Schemas['TriedLine']) => {
  const e = line.event as Record<string, unknown> | null
  return e ? [e.time, e.actor, e.action, e.object, e.address, e.outcome].filter(Boolean).join(' · ') : line.reason
}
</script>

<template>
  <section class="trial" aria-label="Try it">
    <h3>Try it on the first lines of a file</h3>
    <p class="acts-row">
      <input type="file" aria-label="File to try" @change="open" />
      <el-button v-if="text" size="small" :loading="busy" @click="attempt">Try again</el-button>
    </p>
    <table v-if="table && header.length" class="sheet">
      <tbody>
        <tr v-for="h in header" :key="h">
          <td>{{ h }}</td>
          <td>
            <el-select v-model="columns[h]" size="small" :aria-label="`What ${h} becomes`"
              ><el-option value="" label="a detail of its name" /><el-option
                v-for="f in fields"
                :key="f"
                :value="f"
                :label="f"
            /></el-select>
          </td>
        </tr>
        <tr>
          <td class="quiet">every row’s action</td>
          <td>
            <el-input v-model="action" size="small" placeholder="from a column" aria-label="Action of every row" />
          </td>
        </tr>
        <tr>
          <td class="quiet">times are written</td>
          <td>
            <el-input
              v-model="pattern"
              size="small"
              placeholder="ISO 8601, or dd.MM.uuuu HH:mm:ss"
              aria-label="Pattern of times"
            />
          </td>
        </tr>
        <tr>
          <td class="quiet">in the zone</td>
          <td><el-input v-model="zone" size="small" placeholder="UTC" aria-label="Time zone" /></td>
        </tr>
      </tbody>
    </table>
    <ol v-if="lines.length">
      <li v-for="l in lines.slice(0, 8)" :key="l.line" :class="{ lacking: l.reason }">
        {{ l.reason ? '▲ ' : '' }}line {{ l.line }}: {{ says(l) }}
      </li>
    </ol>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </section>
</template>

<style scoped>
.trial {
  margin-top: 14px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
}
h3 {
  font-size: 14px;
  margin: 0 0 6px;
}
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  font-size: 12.5px;
}
</style>
