<script setup lang="ts">
import { reactive, ref, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take, type Schemas } from '@/shared/api/client'
import { bytes, day } from '@/shared/format'
import { may } from '@/shared/session'

/** The documents of an entry, the newest first, each until its last day. */
const { entry } = defineProps<{ entry: Schemas['RegisterView'] }>()
const { act, busy, problem } = useAct(['readiness'])
const adding = ref(false)
const form = reactive({ title: '', validThrough: '' })
const file = shallowRef<File | null>(null)
const choose = (e: Event) => (file.value = (e.target as HTMLInputElement).files?.[0] ?? null)
async function give() {
  const done = await act(() =>
    take(
      api.POST('/api/registers/{id}/documents', {
        params: {
          path: { id: entry.id },
          query: {
            file: file.value!.name,
            title: form.title || undefined,
            validThrough: form.validThrough || undefined,
          },
        },
        ...fileBody(file.value!),
      } as never),
    ),
  )
  if (done) {
    adding.value = false
    Object.assign(form, { title: '', validThrough: '' })
  }
}
</script>

<template>
  <ul class="documents">
    <li v-for="d in entry.documents" :key="d.id" class="small">
      <a :href="`/api/register-documents/${d.id}/file`" download :title="`${d.fileName}, ${bytes(d.bytes)}`">{{
        d.title
      }}</a>
      <span v-if="d.broken" class="lacking"> ▲ missing or changed</span>
      <span :class="d.ended ? 'lacking' : 'quiet'">{{
        d.validThrough ? ` ${d.ended ? '▲ expired' : 'until'} ${day(d.validThrough)}` : ''
      }}</span>
    </li>
  </ul>
  <span v-if="!entry.documents.length && !adding" class="quiet small">none </span>
  <button v-if="may('manageReadiness') && !adding" class="link small" @click="adding = true">Add a document</button>
  <form v-if="adding" class="add" @submit.prevent="give">
    <input type="file" aria-label="File" @change="choose" />
    <el-input v-model="form.title" size="small" aria-label="What it is" placeholder="What it is" />
    <label class="small">until <input v-model="form.validThrough" type="date" /></label>
    <span
      ><el-button size="small" type="primary" native-type="submit" :disabled="!file" :loading="busy">Add</el-button>
      <button type="button" class="link small" @click="adding = false">Cancel</button></span
    >
    <p v-if="problem" class="problem small" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.link,
li a {
  display: inline-block;
  line-height: 24px;
}
.documents {
  list-style: none;
  margin: 0;
  padding: 0;
}
.add {
  display: grid;
  gap: 6px;
  max-width: 260px;
}
</style>
