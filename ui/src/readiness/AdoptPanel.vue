<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'

/** Frameworks to adopt: each shows first what the controls there are would answer at once. */
const emit = defineEmits<{ adopted: [code: string] }>()
const library = useQuery({
  queryKey: ['readiness', 'library'],
  queryFn: () => take(api.GET('/api/frameworks/library')),
})
const { act, busy, problem } = useAct(['readiness'])
const preview = ref<Schemas['AdoptionPreview'] | null>(null)
const file = shallowRef<File | null>(null)
const map = ref(true)
const onlyOpen = ref(false)
const look = (code: string) =>
  act(async () => {
    file.value = null
    preview.value = await take(api.GET('/api/frameworks/preview', { params: { query: { code } } }))
  })
async function lookAt(event: Event) {
  const input = event.target as HTMLInputElement
  const chosen = input.files?.[0]
  if (chosen)
    await act(async () => {
      preview.value = null
      preview.value = await take(api.POST('/api/frameworks/preview', fileBody(chosen) as never))
      file.value = chosen
    })
  input.value = ''
}
async function adopt() {
  const { code } = preview.value!
  const done = await act(() =>
    file.value
      ? take(
          api.POST('/api/frameworks/oscal', {
            params: { query: { map: map.value } },
            ...fileBody(file.value),
          } as never),
        )
      : take(api.POST('/api/frameworks', { body: { code, map: map.value } })),
  )
  if (done) {
    preview.value = null
    emit('adopted', code)
  }
}
const takeLinks = (event: Event) => {
  const input = event.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  return chosen ? act(() => take(api.PUT('/api/crosswalk/csv', fileBody(chosen) as never))) : Promise.resolve(false)
}
const shown = computed(() =>
  (preview.value?.requirements ?? []).filter((r) => !onlyOpen.value || r.controls.length === 0),
)
</script>

<template>
  <section class="panel block" aria-label="Adopt a framework">
    <h2>Adopt</h2>
    <table class="sheet">
      <tbody>
        <tr v-for="c in library.data.value ?? []" :key="c.code">
          <td>
            <strong>{{ c.title }}</strong>
            <div class="small quiet">{{ c.source }}</div>
          </td>
          <td class="num">{{ plural(c.requirements, 'requirement') }}</td>
          <td class="do">
            <span v-if="c.adopted" class="quiet">adopted</span
            ><el-button v-else size="small" :loading="busy" @click="look(c.code)">Look at it</el-button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small row">
      <label
        >An OSCAL catalog or profile (JSON)
        <input type="file" accept="application/json,.json" aria-label="OSCAL catalog or profile" @change="lookAt"
      /></label>
      <span class="right"
        ><a href="/api/crosswalk.csv" download>What asks for the same, as CSV</a> ·
        <label class="link"
          >replace your own<input
            type="file"
            accept=".csv,text/csv"
            class="sr"
            aria-label="Crosswalk as CSV"
            @change="takeLinks" /></label
      ></span>
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="preview">
      <h3>{{ preview.title }} {{ preview.version }}</h3>
      <p>
        <strong>{{ preview.answered }} of {{ plural(preview.requirements.length, 'requirement') }}</strong> would be
        answered at once, through requirements that ask for the same.
        <label class="small"><input v-model="onlyOpen" type="checkbox" /> only what nothing answers</label>
      </p>
      <p v-for="p in preview.passedOver" :key="p" class="small">▲ {{ p }}</p>
      <div class="list">
        <table class="sheet">
          <tbody>
            <tr v-for="r in shown" :key="r.code">
              <td class="code">{{ r.code }}</td>
              <td>{{ r.title }}</td>
              <td :class="{ quiet: !r.controls.length }">{{ r.controls.join(', ') || '○ nothing yet' }}</td>
              <td class="small quiet">{{ r.through.length ? `like ${r.through.join(', ')}` : '' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="row">
        <el-checkbox v-model="map" :disabled="!preview.answered">those controls answer it from now on</el-checkbox>
        <el-button type="primary" :disabled="preview.adopted" :loading="busy" @click="adopt">{{
          preview.adopted ? 'It is adopted already' : `Adopt ${preview.title}`
        }}</el-button>
        <button class="link" @click="preview = null">Leave it</button>
      </p>
    </template>
  </section>
</template>

<style scoped>
.link,
li a {
  display: inline-block;
  line-height: 24px;
}
h2 {
  font-size: 16px;
}
h3 {
  font-size: 15px;
  margin: 10px 0 0;
}
.row {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
}
.right {
  margin-left: auto;
}
.list {
  max-height: 320px;
  overflow: auto;
}
.do {
  white-space: nowrap;
  text-align: right;
}
</style>
