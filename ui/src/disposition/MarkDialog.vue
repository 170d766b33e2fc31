<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, reactive, ref } from 'vue'
import { api, take, type Problem } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { person } from '@/shared/session'
import { keepTyped } from '@/shared/typed'
import type { MarkDetails } from './marks'
import { seriesNames } from '@/shared/series'

/** What a mark needs besides the press: until when and why, under which series, or whom to ask and what. */
const { marking, items } = defineProps<{
  marking: 'extend' | 'refile' | 'ask'
  items: number
  /** The batch's own, which is no choice. */
  seriesId: number
  busy: boolean
  problem: Problem | null
}>()
const emit = defineEmits<{ mark: [details: MarkDetails]; close: [] }>()
const shown = ref(true)
const form = reactive({
  until: '',
  by: 'P1Y',
  seriesId: null as number | null,
  askedOf: null as number | null,
  why: '',
})
const saved = keepTyped(`mark.${marking}`, form)
// Taken away while it is open: the mark was made.
onBeforeUnmount(() => shown.value && saved())
const bySpan = ref<'until' | 'by'>('until')
const spans = { P6M: '6 months', P1Y: '1 year', P2Y: '2 years', P5Y: '5 years' } as const
const series = useQuery({
  ...seriesNames,
  enabled: marking === 'refile',
})
const colleagues = useQuery({
  queryKey: ['colleagues'],
  queryFn: () => take(api.GET('/api/colleagues')),
  enabled: marking === 'ask',
})
const title = computed(
  () => `${{ extend: 'Extend', refile: 'Re-file', ask: 'Ask about' }[marking]} ${plural(items, 'item')}`,
)
const complete = computed(
  () =>
    ({
      extend: !!form.why.trim() && !!(bySpan.value === 'by' ? form.by : form.until),
      refile: !!form.seriesId,
      ask: !!form.askedOf && !!form.why.trim(),
    })[marking],
)
const details = computed<MarkDetails>(
  () =>
    ({
      extend: bySpan.value === 'until' ? { why: form.why, until: form.until } : { why: form.why, by: form.by },
      refile: { seriesId: form.seriesId },
      ask: { why: form.why, askedOf: form.askedOf },
    })[marking],
)
</script>

<template>
  <el-dialog v-model="shown" :title="title" width="460" append-to-body @closed="emit('close')">
    <template v-if="marking === 'extend'">
      <p class="ways">
        <label><input v-model="bySpan" type="radio" value="until" /> until a day</label
        ><label><input v-model="bySpan" type="radio" value="by" /> by a period from today</label>
      </p>
      <template v-if="bySpan === 'until'"
        ><label class="label" for="until">Keep until</label
        ><input id="until" v-model="form.until" class="box" type="date"
      /></template>
      <template v-else
        ><label class="label" for="span">Keep for another</label
        ><select id="span" v-model="form.by" class="box">
          <option v-for="(w, k) in spans" :key="k" :value="k">{{ w }}</option>
        </select></template
      >
    </template>
    <template v-else-if="marking === 'refile'">
      <label class="label" for="refile-to">It belongs under</label>
      <el-select id="refile-to" v-model="form.seriesId" filterable placeholder="Code or title" aria-label="Series"
        ><el-option
          v-for="s in series.data.value?.filter((s) => s.state !== 'retired' && s.id !== seriesId) ?? []"
          :key="s.id"
          :value="s.id"
          :label="`${s.code} ${s.title}`"
      /></el-select>
      <p class="small quiet">It is filed there once every stage has signed; until then it stays in this batch.</p>
    </template>
    <template v-else-if="marking === 'ask'">
      <label class="label" for="ask-of">Whom</label>
      <el-select id="ask-of" v-model="form.askedOf" filterable placeholder="Name" aria-label="Whom"
        ><el-option
          v-for="c in colleagues.data.value?.filter((c) => c.id !== person?.id) ?? []"
          :key="c.id"
          :value="c.id"
          :label="c.name"
      /></el-select>
      <p class="small quiet">
        They are told by mail and find it on their Today. The batch waits: nobody signs while an item is marked so.
      </p>
    </template>
    <template v-if="marking === 'extend' || marking === 'ask'"
      ><label class="label" for="mark-why">{{ marking === 'ask' ? 'What do you want to know?' : 'Why' }}</label
      ><el-input id="mark-why" v-model="form.why" type="textarea" :rows="2" maxlength="1000"
    /></template>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :disabled="!complete" :loading="busy" @click="emit('mark', details)">{{
        title
      }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.ways {
  display: flex;
  gap: 18px;
  margin: 0 0 8px;
}
.box {
  height: 32px;
  width: 100%;
  margin-bottom: 8px;
}
</style>
