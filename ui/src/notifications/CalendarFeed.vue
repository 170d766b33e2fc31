<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

/** The address under which one's own calendar subscribes to what waits and has a day. */
const { act, busy, problem } = useAct(['calendar-feed'])
const { data } = useQuery({ queryKey: ['calendar-feed'], queryFn: () => take(api.GET('/api/calendar-feed')) })
const address = computed(() => (data.value?.path ? `${location.origin}${data.value.path}` : null))
const renew = () => act(() => take(api.POST('/api/calendar-feed', {})))
</script>

<template>
  <section class="panel block" aria-label="Calendar feed">
    <h2>Calendar feed</h2>
    <p>
      What waits for you and has a day, in your own calendar: stages to sign, and the days on which grace ends.
      Subscribe to this address (iCalendar).
    </p>
    <template v-if="address">
      <label class="label" for="feed">Address</label>
      <el-input id="feed" :model-value="address" readonly @focus="($event.target as HTMLInputElement).select()" />
      <p class="small quiet">
        Whoever knows it can read the titles of what waits for you. A new address makes this one empty.
      </p>
    </template>
    <p v-else class="quiet">You have none yet.</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p class="acts-row">
      <el-button :type="address ? 'default' : 'primary'" :loading="busy" @click="renew">{{
        address ? 'Give me a new address' : 'Make my address'
      }}</el-button>
    </p>
  </section>
</template>
