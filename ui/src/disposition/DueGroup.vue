<script setup lang="ts">
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, monthWords, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { signers } from '@/shared/words'
import ClearDue from './ClearDue.vue'
import { grace } from './grace'

/** What is due under a series or a blanket and lies in no batch. */
const { group, month } = defineProps<{
  group: Schemas['DueGroup']
  /** Only what fell due within it, by its first day. */
  month: string | null
}>()
const emit = defineEmits<{ made: [batch: number] }>()
const { act, busy, problem } = useAct(['batches', 'items'])
const open = () =>
  act(async () => {
    const made = await take(
      api.POST('/api/batches', { body: { seriesId: group.series.id, month: month ?? undefined } }),
    )
    emit('made', made.id)
  })
</script>

<template>
  <article class="group">
    <p class="small quiet">{{ group.series.code }} · {{ group.unit }}</p>
    <h1>
      {{ plural(group.items, 'item') }} due: {{ group.series.title
      }}<template v-if="month">, {{ monthWords(month) }}</template>
    </h1>
    <dl class="kv">
      <dt>Size</dt>
      <dd>{{ bytes(group.bytes) }}</dd>
      <template v-if="!month"
        ><dt>Oldest due since</dt>
        <dd :title="group.oldest">{{ day(group.oldest) }}</dd></template
      >
      <dt>Grace</dt>
      <dd>{{ grace(group.graceEnds) }}</dd>
      <dt>Who signs</dt>
      <dd>
        {{
          group.stages.length
            ? `${signers(group.stages)}, one after the other`
            : 'nobody: the rule destroys without sign-off'
        }}
      </dd>
    </dl>
    <p class="quiet">
      {{
        group.stages.length
          ? 'Opening a batch destroys nothing. The items are looked through, marked and signed by each stage; ' +
            'only then are they destroyed.'
          : 'Each item is looked at again before it is destroyed; what changed meanwhile stays. A certificate remains.'
      }}
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p class="acts">
      <template v-if="may('signDisposition')"
        ><el-button v-if="group.stages.length" type="primary" :loading="busy" @click="open"
          >Open a batch of {{ count(group.items) }}</el-button
        ><ClearDue v-else :group="group" @made="emit('made', $event)" /></template
      ><RouterLink
        :to="group.blanketId ? '/content?state=due&unfiled=true' : `/content?series=${group.series.id}&state=due`"
        >See them in Content</RouterLink
      >
    </p>
  </article>
</template>

<style scoped>
.group {
  display: grid;
  gap: 12px;
  max-width: 640px;
}
.group h1 {
  font-size: 23px;
}
.group p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 16px;
  align-items: center;
}
</style>
