<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { bytes, moment } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'

/** What an item of a matter held before: each content that was kept, to read and to take along. */
const {
  matter,
  item,
  title,
  begin = null,
  words = '',
} = defineProps<{
  matter: number
  item: number
  title: string
  /** The version that is open to begin with. */
  begin?: string | null
  /** CQL whose words are marked. */
  words?: string
}>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const chosen = ref(begin)
const path = computed(() => ({ id: matter, item }))
const versions = useQuery({
  queryKey: computed(() => ['matter', matter, 'versions', item]),
  queryFn: () => take(api.GET('/api/matters/{id}/items/{item}/versions', { params: { path: path.value } })),
})
const open = computed(() => chosen.value ?? versions.data.value?.[0]?.hash ?? null)
const text = useQuery({
  queryKey: computed(() => ['matter', matter, 'version', item, open.value, words]),
  queryFn: () =>
    take(
      api.GET('/api/matters/{id}/items/{item}/versions/{hash}', {
        params: { path: { ...path.value, hash: open.value! }, query: { cql: words || undefined } },
      }),
    ),
  enabled: computed(() => !!open.value),
})
</script>

<template>
  <el-dialog v-model="shown" :title="`Versions of ${title}`" width="900" append-to-body @closed="emit('close')">
    <p v-if="versions.error.value" class="problem" role="alert">{{ versions.error.value.message }}</p>
    <p v-else-if="versions.data.value?.length === 0" class="small quiet">
      No content of it lies in safekeeping. What changes from now on, while it is held, is kept.
    </p>
    <div v-else class="versions">
      <ul aria-label="Versions">
        <li v-for="v in versions.data.value ?? []" :key="v.hash">
          <button class="version" :aria-pressed="v.hash === open" :title="v.hash" @click="chosen = v.hash">
            <span>{{ moment(v.at) }}</span><span class="small quiet"
              >{{ bytes(v.bytes) }} ·
              {{ v.isNow ? 'as it is now' : v.until ? `until ${moment(v.until)}` : 'the last that was kept' }}</span
            >
          </button>
        </li>
      </ul>
      <section aria-label="Text of the version">
        <p v-if="text.error.value" class="problem" role="alert">{{ text.error.value.message }}</p>
        <template v-else-if="text.data.value">
          <p v-if="text.data.value.note" class="small quiet">{{ text.data.value.note }}</p>
          <pre v-if="text.data.value.content" class="text" tabindex="0"><MarkedText
            :text="text.data.value.content"
            :marks="text.data.value.marks"
          /></pre>
          <a class="small" :href="`/api/matters/${matter}/items/${item}/versions/${open}/file`" download
            >The file as it was</a
          >
        </template>
      </section>
    </div>
  </el-dialog>
</template>

<style scoped>
.versions {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 16px;
  min-height: 220px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 56vh;
  overflow: auto;
}
.version {
  display: grid;
  width: 100%;
  padding: 7px 10px;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.version:hover {
  background: var(--sea-wash);
}
.version[aria-pressed='true'] {
  border-left-color: var(--sea);
  background: var(--sea-wash);
}
.text {
  margin: 0 0 8px;
  max-height: 52vh;
  overflow: auto;
  white-space: pre-wrap;
  font: inherit;
}
</style>
