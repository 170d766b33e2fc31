<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import BoardChart from './BoardChart.vue'
import { searchFor, useSpan } from './span'
import SpanPicker from './SpanPicker.vue'

const { text } = useUrl()
const boards = [
  { name: 'overview', title: 'Overview' },
  { name: 'sign-ins', title: 'Sign-ins' },
  { name: 'sharing', title: 'Sharing' },
  { name: 'destruction', title: 'Destruction' },
  { name: 'administration', title: 'Administration' },
]
const name = computed({
  get: () => text('board').value || 'overview',
  set: (b: string) => (text('board').value = b === 'overview' ? '' : b),
})
const { days, params } = useSpan('30')
const board = useQuery({
  queryKey: computed(() => ['boards', name.value, params.value]),
  queryFn: () =>
    take(api.GET('/api/activity/boards/{name}', { params: { path: { name: name.value }, query: params.value } })),
  placeholderData: keepPreviousData,
})
</script>

<template>
  <main class="page">
    <header>
      <h1>Activity</h1>
      <el-radio-group v-model="name" size="small" aria-label="Board"
        ><el-radio-button v-for="b in boards" :key="b.name" :value="b.name">{{
          b.title
        }}</el-radio-button></el-radio-group
      >
      <RouterLink v-if="board.data.value" :to="searchFor('', days)" class="quiet">{{
        plural(board.data.value.total, 'event')
      }}</RouterLink>
      <SpanPicker v-model="days" class="right" />
    </header>
    <p v-if="board.error.value" class="problem" role="alert">{{ board.error.value.message }}</p>
    <section v-if="board.data.value?.total === 0" class="panel block">
      <h2>No events in this time</h2>
      <p v-if="may('manageChannels')">
        Connect a log under <RouterLink to="/set-up/channels">Channels</RouterLink>: its events are counted here within
        seconds.
      </p>
      <p v-else>
        Nothing that you may read happened in it. Look further back, or ask an administrator to connect a log.
      </p>
    </section>
    <div v-else class="charts">
      <BoardChart v-for="c in board.data.value?.charts ?? []" :key="c.title" :chart="c" :days="days" />
    </div>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
}
header {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 14px;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(370px, 1fr));
  gap: 16px;
}
</style>
