<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { may } from './session'
import { useAct } from './act'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from './format'
import MarkedText from './MarkedText.vue'
import { confidenceWords } from './words'

const { item, cql = '' } = defineProps<{ item: number; cql?: string }>()
const { data, error } = useQuery({
  queryKey: computed(() => ['preview', item, cql]),
  queryFn: () =>
    take(api.GET('/api/items/{id}/preview', { params: { path: { id: item }, query: { cql: cql || undefined } } })),
})
const { act, busy, problem } = useAct([])
const unmasked = ref<Schemas['Unmasked'] | null>(null)
const asking = ref(false)
const why = ref('')
watch(
  () => item,
  () => (unmasked.value = null),
)

/** Nothing in it can run, and nothing can be fetched from anywhere. */
const policy = `<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">`
const look = `<style>
  body { font: 14px/1.5 sans-serif; margin: 12px; color: #14302f; background: #fffdf9 }
  table { border-collapse: collapse }
  td, th { border: 1px solid #c4baa6; padding: 3px 8px; text-align: left }
</style>`
const page = computed(() => `<!doctype html>${policy}${look}${data.value?.content ?? ''}`)
const finds = computed(() =>
  (unmasked.value?.finds ?? data.value?.finds ?? []).map((f) => ({
    ...f,
    title: `${f.kind}, ${confidenceWords[f.confidence]}`,
  })),
)
const kinds = computed(() => [...new Set(finds.value.map((f) => f.kind))].join(', '))
const hidden = computed(() => data.value?.content?.includes('•') ?? false)
async function unmask() {
  const done = await act(
    async () =>
      (unmasked.value = await take(
        api.POST('/api/items/{id}/unmasking', { params: { path: { id: item } }, body: { why: why.value } }),
      )),
  )
  if (done) asking.value = false
}
</script>

<template>
  <section class="preview panel" aria-label="Preview">
    <p v-if="error" class="problem pad">{{ error.message }}</p>
    <template v-else-if="data">
      <p v-if="data.note" class="small quiet pad note">{{ data.note }}</p>
      <p v-if="finds.length" class="small pad note finds">
        <span>{{ plural(finds.length, 'find') }} of sensitive data: {{ kinds }}</span>
        <button v-if="unmasked" class="link" @click="unmasked = null">Mask again</button>
        <button v-else-if="hidden && may('unmaskSensitive')" class="link" @click="((asking = true), (why = ''))">
          Unmask …
        </button>
      </p>
      <iframe v-if="data.kind === 'html'" title="Preview of the page" sandbox="" :srcdoc="page" />
      <img v-else-if="data.kind === 'image'" :src="data.content!" alt="The image in this file" />
      <pre
        v-else-if="data.kind === 'text'"
        tabindex="0"
      ><MarkedText :text="unmasked?.text ?? data.content ?? ''" :marks="data.marks" :finds="finds" /></pre>
    </template>
    <el-dialog v-model="asking" title="Unmask what is found here" width="440" append-to-body>
      <p>It is shown to you alone, until you leave this item. That you saw it, and why, goes to the ledger.</p>
      <label class="label" for="unmask-why">Why you need to see it</label>
      <el-input id="unmask-why" v-model="why" type="textarea" :rows="2" maxlength="1000" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="asking = false">Leave it</el-button
        ><el-button type="primary" :disabled="!why.trim()" :loading="busy" @click="unmask">Unmask</el-button></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
.preview {
  min-height: 60px;
  overflow: hidden;
}
.pad {
  padding: 8px 14px;
  margin: 0;
}
.note {
  border-bottom: 1px solid var(--line);
  background: var(--sheet-2);
}
.finds {
  display: flex;
  justify-content: space-between;
  gap: 14px;
}
pre {
  margin: 0;
  padding: 12px 14px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font: 13.5px/1.55 var(--sans);
  max-height: 420px;
  overflow: auto;
}
iframe {
  width: 100%;
  height: 320px;
  border: 0;
  display: block;
}
img {
  max-width: 100%;
  display: block;
  margin: auto;
}
</style>
