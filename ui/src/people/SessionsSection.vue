<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { moment } from '@/shared/format'
import { browserName } from './browser'

/** Where one is signed in, and how to end it. */
const { act, busy, problem } = useAct(['sessions'])
const { data } = useQuery({ queryKey: ['sessions'], queryFn: () => take(api.GET('/api/sessions')) })
const others = computed(() => (data.value ?? []).filter((s) => !s.here).length)
const end = (id: number) => act(() => take(api.DELETE('/api/sessions/{id}', { params: { path: { id } } })))
const endOthers = () => act(() => take(api.DELETE('/api/sessions', {})))
</script>

<template>
  <section class="panel block" aria-label="Where you are signed in">
    <h2>Where you are signed in</h2>
    <table class="sheet">
      <thead>
        <tr>
          <th>Browser</th>
          <th>Address</th>
          <th>Since</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in data ?? []" :key="s.id">
          <td :title="s.browser">{{ browserName(s.browser) }}</td>
          <td>{{ s.address }}</td>
          <td>{{ moment(s.begunAt) }}</td>
          <td>
            <span v-if="s.here" class="quiet">this one</span
            ><el-button v-else size="small" :disabled="busy" @click="end(s.id)">Sign out there</el-button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small quiet">
      A session ends after an hour in which nothing is asked, and after twelve hours in any case.
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p v-if="others > 1" class="acts-row">
      <el-button :loading="busy" @click="endOthers">Sign out everywhere but here</el-button>
    </p>
  </section>
</template>
