<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

/** Whether an act in the directory about an alert waits for a second person. */
const { data, error } = useQuery({
  queryKey: ['settings', 'alerts'],
  queryFn: () => take(api.GET('/api/alert-settings')),
})
const { act, busy, problem } = useAct(['settings'])
const set = (actsNeedSecond: boolean) => act(() => take(api.PUT('/api/alert-settings', { body: { actsNeedSecond } })))
</script>

<template>
  <section class="panel block" aria-label="Acts about alerts">
    <h2>Acts about alerts</h2>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <p>
        An analyst, or a watch, suspends an account, removes a link or a membership, or revokes a consent in the
        directory.
        {{
          data.actsNeedSecond
            ? 'Each act waits until a second analyst agrees.'
            : 'Each act is done at once, and can be undone.'
        }}
      </p>
      <p>
        <el-button :loading="busy" @click="set(!data.actsNeedSecond)">{{
          data.actsNeedSecond ? 'Do acts at once from now on' : 'Ask for a second person from now on'
        }}</el-button>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </template>
  </section>
</template>
