<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Problem, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import { confidenceWords } from '@/shared/words'
import { keepTyped } from '@/shared/typed'

const { kind } = defineProps<{ kind: Schemas['KindView'] | null }>()
const emit = defineEmits<{ close: [] }>()
const { act, busy, problem } = useAct(['kinds'])
const shown = ref(true)
const form = reactive({
  name: kind?.name ?? '',
  title: kind?.title ?? '',
  pattern: kind?.definition?.pattern ?? '',
  checksum: kind?.definition?.checksum ?? ('none' as Schemas['Checksum']),
  nearby: kind?.definition?.nearby.join('\n') ?? '',
})
const saved = keepTyped(`kind.${kind?.id ?? 'new'}`, form)
const checksums: Record<Schemas['Checksum'], string> = {
  none: 'none',
  luhn: 'Luhn (ISO/IEC 7812)',
  mod97: 'MOD 97-10 (ISO/IEC 7064)',
  mod11Radix2: 'MOD 11-2 (ISO/IEC 7064)',
  mod11Hybrid10: 'MOD 11,10 (ISO/IEC 7064)',
  verhoeff: 'Verhoeff',
}
const definition = computed<Schemas['OwnKindDefinition']>(() => ({
  name: form.name.trim(),
  title: form.title.trim(),
  pattern: form.pattern,
  checksum: form.checksum,
  nearby: form.nearby
    .split('\n')
    .map((n) => n.trim())
    .filter(Boolean),
}))

const sample = ref('')
const trial = ref<Schemas['TrialFind'][]>([])
const trialProblem = ref<Problem | null>(null)
const asked = refDebounced(
  computed(() =>
    JSON.stringify([definition.value.pattern, definition.value.checksum, definition.value.nearby, sample.value]),
  ),
  300,
)
watch(asked, async (mine) => {
  if (!sample.value || !form.pattern) return void (trial.value = [])
  try {
    // Name and title do not matter to a trial; they may not be written yet.
    const finds = await take(
      api.POST('/api/sensitive/trial', {
        body: {
          kind: {
            ...definition.value,
            name: definition.value.name || 'trial',
            title: definition.value.title || 'Trial',
          },
          text: sample.value,
        },
      }),
    )
    if (mine === asked.value) [trial.value, trialProblem.value] = [finds, null]
  } catch (e) {
    if (mine === asked.value) [trial.value, trialProblem.value] = [[], e as Problem]
  }
})
const finds = computed(() => trial.value.map((f) => ({ ...f, title: confidenceWords[f.confidence] })))

async function save() {
  const done = await act(() =>
    kind?.id
      ? take(
          api.PUT('/api/sensitive/kinds/{id}', {
            params: { path: { id: kind.id } },
            ...ifMatch(kind.revision),
            body: definition.value,
          }),
        )
      : take(api.POST('/api/sensitive/kinds', { body: definition.value })),
  )
  if (done) {
    saved()
    shown.value = false
  }
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="kind ? `Change ${kind.title}` : 'Add a kind'"
    width="760"
    append-to-body
    @closed="emit('close')"
  >
    <form class="form" @submit.prevent="save">
      <div class="half">
        <label class="label" for="k-title">Title</label
        ><input id="k-title" v-model="form.title" class="box" placeholder="Crew number" />
        <label class="label" for="k-name">Name in queries</label
        ><input id="k-name" v-model="form.name" class="box" placeholder="crew-number" :disabled="!!kind" />
        <label class="label" for="k-pattern">Pattern, a regular expression</label
        ><input id="k-pattern" v-model="form.pattern" class="box code" spellcheck="false" placeholder="\bT[0-9]{4}\b" />
        <label class="label" for="k-checksum">Check digit</label
        ><select id="k-checksum" v-model="form.checksum" class="box">
          <option v-for="(words, value) in checksums" :key="value" :value="value">{{ words }}</option>
        </select>
        <label class="label" for="k-nearby">Words nearby, each on a line</label
        ><textarea id="k-nearby" v-model="form.nearby" class="box tall" rows="3" placeholder="crew number" />
        <p class="small quiet">
          Without a check digit a find is possible, with words nearby likely. With one it is likely, with words nearby
          certain.
        </p>
      </div>
      <div class="half">
        <label class="label" for="k-sample">Try it on a text</label
        ><textarea
          id="k-sample"
          v-model="sample"
          class="box"
          rows="7"
          placeholder="Paste some text; nothing of it is kept."
        />
        <p v-if="trialProblem" class="problem" role="alert">{{ trialProblem.message }}</p>
        <template v-else-if="sample && form.pattern">
          <p class="small" role="status">
            {{ plural(trial.length, 'find')
            }}<template v-if="trial.length"
              >:
              {{
                (['certain', 'likely', 'possible'] as const)
                  .map((c) => [trial.filter((f) => f.confidence === c).length, c] as const)
                  .filter(([n]) => n)
                  .map(([n, c]) => `${n} ${c}`)
                  .join(', ')
              }}</template
            >
          </p>
          <pre class="panel"><MarkedText :text="sample" :finds="finds" /></pre>
        </template>
      </div>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button
        type="primary"
        :loading="busy"
        :disabled="!form.name.trim() || !form.title.trim() || !form.pattern"
        @click="save"
        >{{ kind ? 'Save and look again' : 'Add and look for it' }}</el-button
      ></template
    >
  </el-dialog>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 22px;
}
.half {
  display: grid;
  gap: 5px;
  align-content: start;
}
.half p {
  margin: 2px 0;
}
.box {
  min-height: 30px;
  padding: 4px 8px;
  width: 100%;
  resize: vertical;
}
.code {
  font-family: ui-monospace, monospace;
  font-size: 13px;
}
pre {
  margin: 0;
  padding: 8px 10px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font: 13px/1.5 var(--sans);
  max-height: 180px;
  overflow: auto;
}
</style>
