<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take } from '@/shared/api/client'
import { may } from '@/shared/session'
import AssuranceRoom from './AssuranceRoom.vue'
import AssuranceSheet from './AssuranceSheet.vue'

/** What the public is shown: chosen here, listed, and previewed as the public sees it. */
const { data, error } = useQuery({
  queryKey: ['assurance', 'settings'],
  queryFn: () => take(api.GET('/api/assurance/settings')),
})
const preview = useQuery({ queryKey: ['assurance', 'preview'], queryFn: () => take(api.GET('/api/assurance/preview')) })
const overview = useQuery({ queryKey: ['readiness'], queryFn: () => take(api.GET('/api/readiness')) })
const form = reactive({
  published: false,
  words: '',
  frameworks: [] as string[],
  controlsShown: false,
  policiesShown: false,
})
watch(data, (d) => d && Object.assign(form, { ...d.settings, frameworks: [...d.settings.frameworks] }), {
  immediate: true,
})
const { act, busy, problem } = useAct(['readiness'])
const save = (published: boolean) =>
  act(() =>
    take(api.PUT('/api/assurance/settings', { ...ifMatch(data.value!.revision), body: { ...form, published } })),
  )
</script>

<template>
  <main class="page">
    <header>
      <h1>Assurance page</h1>
      <span v-if="data" :class="data.settings.published ? 'settled' : 'quiet'">{{
        data.settings.published ? '● public' : '○ not public'
      }}</span>
      <RouterLink v-if="data?.settings.published" to="/assurance" class="small">Open it</RouterLink>
    </header>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <div class="two">
      <form class="panel block" @submit.prevent="save(form.published)">
        <h2>What is shown</h2>
        <label class="label" for="as-words">Your own words</label>
        <el-input id="as-words" v-model="form.words" type="textarea" :rows="4" />
        <span class="label">Frameworks, with a word for their state</span>
        <el-select v-model="form.frameworks" multiple aria-label="Frameworks"
          ><el-option v-for="f in overview.data.value?.frameworks ?? []" :key="f.code" :value="f.code" :label="f.title"
        /></el-select>
        <el-checkbox v-model="form.controlsShown">how many controls are ready, by area</el-checkbox>
        <el-checkbox v-model="form.policiesShown">titles and versions of policies</el-checkbox>
        <p v-if="may('manageReadiness')" class="acts-row">
          <el-button native-type="submit" :loading="busy">Keep it</el-button>
          <el-button v-if="!data?.settings.published" type="primary" :loading="busy" @click="save(true)"
            >Publish it</el-button
          >
          <el-button v-else :loading="busy" @click="save(false)">Take it off the public</el-button>
        </p>
        <h2>What it reveals</h2>
        <ul>
          <li v-for="r in data?.reveals ?? []" :key="r">{{ r }}</li>
        </ul>
      </form>
      <section class="panel block" aria-label="As the public sees it">
        <h2>As the public sees it</h2>
        <AssuranceSheet v-if="preview.data.value" :page="preview.data.value" />
      </section>
    </div>
    <AssuranceRoom />
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 12px;
  align-content: start;
}
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 16px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
form {
  display: grid;
  gap: 8px;
  align-content: start;
}
.settled {
  color: var(--sea);
}
</style>
