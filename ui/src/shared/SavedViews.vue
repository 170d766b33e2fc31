<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, useTemplateRef } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from './act'
import { api, ifMatch, take, type Schemas } from './api/client'
import { useFold } from './fold'

type View = Schemas['ViewView']
/** Searches that are kept under a name: one's own, and those that others share. */
const {
  place,
  path,
  open: opened,
} = defineProps<{
  place: Schemas['ViewPlace']
  /** Where such a search is shown. */
  path: string
  /** The part of the address that says which row is open, which no view keeps. */
  open: string
}>()
const route = useRoute()
const { act, busy, problem } = useAct(['views'])
const folded = useFold(useTemplateRef<HTMLElement>('root'))
const keeping = ref(false)
const form = reactive({ name: '', shared: false })
const views = useQuery({
  queryKey: ['views', place],
  queryFn: () => take(api.GET('/api/views', { params: { query: { place } } })),
})

/** What a view keeps of the address: everything but the row that happens to be open. */
const current = computed(() => {
  const kept = new URLSearchParams()
  for (const [name, value] of Object.entries(route.query))
    if (name !== opened) for (const v of Array.isArray(value) ? value : [value]) if (v) kept.append(name, v)
  return kept.toString()
})
const here = computed(() => views.data.value?.find((v) => v.query === current.value))
async function keep() {
  if (
    await act(() =>
      take(api.POST('/api/views', { body: { name: form.name, query: current.value, shared: form.shared, place } })),
    )
  ) {
    keeping.value = false
    form.name = ''
  }
}
const renew = (v: View) =>
  act(() =>
    take(
      api.PUT('/api/views/{id}', {
        params: { path: { id: v.id } },
        ...ifMatch(v.revision),
        body: { name: v.name, query: current.value, shared: v.shared, place },
      }),
    ),
  )
const share = (v: View) =>
  act(() =>
    take(
      api.PUT('/api/views/{id}', {
        params: { path: { id: v.id } },
        ...ifMatch(v.revision),
        body: { name: v.name, query: v.query, shared: !v.shared, place },
      }),
    ),
  )
const drop = (v: View) =>
  act(() => take(api.DELETE('/api/views/{id}', { params: { path: { id: v.id } }, ...ifMatch(v.revision) })))
</script>

<template>
  <div ref="root" class="views">
    <button
      class="chip"
      :aria-expanded="folded"
      :aria-pressed="!!here"
      @click="((folded = !folded), (keeping = false))"
    >
      {{ here ? `View: ${here.name}` : 'Views' }}
    </button>
    <div v-if="folded" class="menu panel" data-panel role="region" aria-label="Views">
      <p v-if="views.data.value?.length === 0" class="quiet small">
        No view is kept yet. A view keeps search, filters and order.
      </p>
      <ul>
        <li v-for="v in views.data.value ?? []" :key="v.id">
          <RouterLink :to="`${path}?${v.query}`" @click="folded = false"
            ><strong v-if="v === here">{{ v.name }}</strong
            ><template v-else>{{ v.name }}</template></RouterLink
          >
          <span class="small quiet">{{ v.own ? (v.shared ? 'shared' : '') : `by ${v.by}` }}</span>
          <span v-if="v.own" class="small acts"
            ><button v-if="v !== here" class="link" :title="`Keep what is shown now under ${v.name}`" @click="renew(v)">
              Renew</button
            ><button class="link" @click="share(v)">{{ v.shared ? 'Keep to oneself' : 'Share' }}</button
            ><button class="link" :aria-label="`Drop ${v.name}`" @click="drop(v)">Drop</button></span
          >
        </li>
      </ul>
      <form v-if="keeping" class="form" @submit.prevent="keep">
        <label class="label" for="view-name">Name of the view</label>
        <input id="view-name" v-model="form.name" class="box" maxlength="100" />
        <label class="small"
          ><input v-model="form.shared" type="checkbox" /> everybody may open it; each sees only what they may
          see</label
        >
        <p class="right">
          <el-button size="small" @click="keeping = false">Leave it</el-button
          ><el-button size="small" type="primary" native-type="submit" :loading="busy" :disabled="!form.name.trim()"
            >Keep</el-button
          >
        </p>
      </form>
      <p v-else-if="current && !here" class="right">
        <button class="link small" @click="keeping = true">Keep what is shown as a view</button>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </div>
  </div>
</template>

<style scoped>
.views {
  position: relative;
}
.menu {
  position: absolute;
  z-index: 20;
  right: 0;
  top: 32px;
  width: 380px;
  padding: 12px 14px;
  box-shadow: var(--shadow);
  display: grid;
  gap: 8px;
}
.menu p {
  margin: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  max-height: 260px;
  overflow: auto;
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
}
li a {
  flex: 1;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 10px;
}
.form {
  display: grid;
  gap: 6px;
}
.right {
  text-align: right;
}
</style>
