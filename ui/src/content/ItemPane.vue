<script setup lang="ts">
import { ref } from 'vue'
import { may, today } from '@/shared/session'
import { bytes, day, moment, plural } from '@/shared/format'
import PreviewPane from '@/shared/PreviewPane.vue'
import StateMark from '@/shared/StateMark.vue'
import Tideline from '@/shared/Tideline.vue'
import { gradeWords } from '@/shared/words'
import ItemActPanel from './ItemActPanel.vue'
import { useItem } from './useItem'

const { id, inBatch = false, cql = '' } = defineProps<{ id: number; inBatch?: boolean; cql?: string }>()
const emit = defineEmits<{ close: [] }>()
const { data, error } = useItem(() => id)
const filing = ref(false)
/** What the filing dialog begins with. */
const meant = ref<number>()
function file(series?: number) {
  meant.value = series
  filing.value = true
}
const shift = (iso: string, years: number) => `${Number(iso.slice(0, 4)) + years}${iso.slice(4)}`
const copiesKept = (copies: number) =>
  copies === 0 ? 'no copy in safekeeping yet' : `${plural(copies, 'copy', 'copies')} in safekeeping`
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="data" class="item">
    <header>
      <div>
        <p class="small quiet path">{{ data.item.path }}</p>
        <h1>{{ data.item.title }}</h1>
      </div>
      <button class="link" aria-label="Close the item" @click="emit('close')">Close</button>
    </header>
    <p class="standing">
      <StateMark :state="data.item.state" /><StateMark
        v-if="data.item.beneath"
        :state="data.item.beneath"
        title="Where it would stand without the hold"
      />
      <span>{{ data.standing }}</span>
    </p>
    <p v-if="data.holds.length" class="holds">
      <span v-for="h in data.holds" :key="`${h.matterId}-${h.order}`"
        ><RouterLink :to="`/matters/${h.matterId}?tab=orders`">{{ h.matter }} {{ h.matterName }}</RouterLink
        >, order {{ h.order }}: {{ h.name }}<template v-if="h.pinned"> · pinned by hand</template
        ><template v-if="h.until"> · released, protected through {{ day(h.until) }}</template></span
      >
    </p>
    <Tideline
      v-if="data.item.tideline.keepUntil"
      wide
      :line="data.item.tideline"
      :today="today"
      :from="shift(data.item.tideline.start ?? today, -1)"
      :to="
        shift(
          [today, /^\d/.test(data.item.tideline.keepUntil) ? data.item.tideline.keepUntil : today].sort().at(-1)!,
          2,
        )
      "
    />
    <p class="acts">
      <el-button v-if="may('fileContent') && !data.batchId && !data.destroyedAt" @click="file()">{{
        data.item.series ? 'File under another series' : 'File under a series'
      }}</el-button>
      <RouterLink v-if="data.batchId && !inBatch" :to="`/schedule/docket?batch=${data.batchId}&line=${id}`"
        >Open its batch</RouterLink
      >
      <RouterLink
        v-if="data.certificateId && may('readDocket')"
        :to="`/schedule/certificates?certificate=${data.certificateId}`"
        >Certificate {{ data.certificateNumber }}</RouterLink
      >
    </p>
    <p v-if="data.suggestion" class="suggested">
      By what people filed so far it belongs under
      <RouterLink :to="`/schedule/${data.suggestion.series.id}`"
        >{{ data.suggestion.series.code }} {{ data.suggestion.series.title }}</RouterLink
      >, {{ Math.round(data.suggestion.confidence * 100) }} % sure<template v-if="data.suggestion.words.length"
        >; these words speak for it:
        <b v-for="(w, i) in data.suggestion.words" :key="w">{{ i ? ', ' : '' }}{{ w }}</b></template
      >. <button class="link" @click="file(data.suggestion.series.id)">File it there …</button>
    </p>
    <PreviewPane :item="id" :cql="cql" />
    <dl class="kv">
      <dt>Series</dt>
      <dd>
        <RouterLink v-if="data.item.series" :to="`/schedule/${data.item.series.id}`"
          >{{ data.item.series.code }} {{ data.item.series.title }}</RouterLink
        ><span v-else>none</span
        ><span v-if="data.filedOn" class="quiet"> · filed {{ day(data.filedOn) }} by {{ data.filedBy }}</span>
      </dd>
      <dt>Unit</dt>
      <dd>{{ data.item.unit }} · {{ data.item.source }}/{{ data.item.container }}</dd>
      <dt>Created</dt>
      <dd :title="data.item.created">
        {{ day(data.item.created) }}<span v-if="data.item.author" class="quiet"> by {{ data.item.author }}</span>
      </dd>
      <template v-if="data.subject"
        ><dt>Subject</dt>
        <dd>
          <RouterLink v-if="may('readSchedule')" :to="{ path: '/schedule/events', query: { subject: data.subject } }">{{
            data.subject
          }}</RouterLink><span v-else>{{ data.subject }}</span>
        </dd></template
      >
      <template v-if="data.attachments.length"
        ><dt>Attachments</dt>
        <dd>{{ data.attachments.join(', ') }}</dd></template
      >
      <template v-if="data.thread"
        ><dt>Conversation</dt>
        <dd>
          <RouterLink v-if="data.inThread" :to="{ path: '/content', query: { thread: data.thread, sort: 'modified' } }"
            >{{ plural(data.inThread, 'other message', 'other messages') }} in it</RouterLink
          ><span v-else>no other message of it</span>
        </dd></template
      >
      <template v-if="data.item.owner"
        ><dt>Owner</dt>
        <dd>{{ data.item.owner }}</dd></template
      >
      <dt>Modified</dt>
      <dd :title="data.item.modified">{{ day(data.item.modified) }}</dd>
      <template v-for="d in data.dates" :key="d.name"
        ><dt>{{ d.name.replaceAll('-', ' ') }}</dt>
        <dd :title="d.date">
          {{ day(d.date) }}<span v-if="!d.canBeCounted" class="problem"> cannot be counted from; mend it</span>
        </dd></template
      >
      <template v-for="d in data.declared ?? []" :key="`declared-${d.title}`"
        ><dt>{{ d.title }}, declared</dt>
        <dd :title="d.date">{{ day(d.date) }} <span class="quiet">is what its rule counts from</span></dd></template
      >
      <template v-if="data.altered"
        ><dt>At the source</dt>
        <dd class="problem">
          {{ data.altered }}
          <RouterLink v-if="may('writeSchedule')" :to="{ path: '/schedule/to-mend', query: { kind: 'altered' } }"
            >Settle it</RouterLink
          >
        </dd></template
      >
      <template v-for="f in data.fields" :key="f.name"
        ><dt>{{ f.name.replaceAll('-', ' ') }}</dt>
        <dd>{{ f.value }}</dd></template
      >
      <dt>Size</dt>
      <dd>{{ bytes(data.item.bytes) }}</dd>
      <dt>Protection</dt>
      <dd>
        {{ data.grade === 'none' ? 'none' : `${gradeWords[data.grade]}, ${copiesKept(data.copies)}` }}
      </dd>
      <template v-if="data.destroyedAt"
        ><dt>Destroyed</dt>
        <dd>{{ moment(data.destroyedAt) }}</dd></template
      >
      <dt>SHA-256</dt>
      <dd class="hash">{{ data.hash }}</dd>
    </dl>
    <ItemActPanel
      v-if="filing"
      act="file"
      :selection="{ ids: [id] }"
      :items="1"
      :suggested="meant"
      @close="filing = false"
      @done="filing = false"
    />
  </article>
</template>

<style scoped>
.item {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
}
header {
  display: flex;
  justify-content: space-between;
  gap: 20px;
  align-items: start;
}
h1 {
  font-size: 22px;
  overflow-wrap: anywhere;
}
.path {
  margin: 0 0 2px;
  overflow-wrap: anywhere;
}
.standing {
  display: flex;
  gap: 12px;
  margin: 0;
  font-size: 15px;
  flex-wrap: wrap;
}
.acts {
  margin: 0;
  display: flex;
  gap: 14px;
  align-items: center;
}
.holds {
  margin: 0;
  display: grid;
  gap: 4px;
  padding: 8px 12px;
  background: var(--plum-wash);
  color: var(--plum);
  border-left: 3px solid var(--plum);
}
.suggested {
  margin: 0;
  color: var(--ink-2);
}
.suggested b {
  font-weight: 600;
  color: var(--ink);
}
.acts:empty {
  display: none;
}
.hash {
  font-size: 12px;
  color: var(--ink-2);
}
.problem {
  display: inline;
}
</style>
