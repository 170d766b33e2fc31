<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, take, type Problem, type Schemas } from '@/shared/api/client'
import { bytes, count, day, monthWords, plural } from '@/shared/format'
import GroupList from '@/shared/GroupList.vue'
import ReleasedEvents from './ReleasedEvents.vue'
import { releaseParts } from './releaseParts'

/** What a release exposes, counted to the item, before it is asked for and again before it is agreed to. */
const {
  matter,
  order,
  narrowed,
  days,
  asked = null,
} = defineProps<{
  matter: Schemas['MatterView']
  order: Schemas['OrderView']
  narrowed: Schemas['HoldDefinition'] | null
  days: number
  /** The release that waits for this person's agreement; null where it is only being asked for. */
  asked?: Schemas['ReleaseView'] | null
  busy: boolean
  problem: Problem | null
}>()
const emit = defineEmits<{ go: [why: string, days: number, fingerprint: string]; close: [] }>()
const shown = ref(true)
const why = ref('')
const delay = ref(days)
const settled = refDebounced(delay, 250)
const path = computed(() => ({
  params: { path: { id: matter.id, order: order.id }, query: { delay: settled.value } },
  body: { narrowed },
}))
const { data, error, isFetching } = useQuery({
  queryKey: computed(() => ['release', order.id, order.revision, JSON.stringify(narrowed), settled.value]),
  queryFn: () => take(api.POST('/api/matters/{id}/orders/{order}/releases/consequences', path.value)),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const figures = computed(() => data.value?.figures)
const parts = computed(() => (figures.value ? releaseParts(figures.value) : []))
const names = computed(() => new Map(data.value?.containers.map((c) => [c.id, c.name])))
const group = ref<{ group: string; title: string; container?: number } | null>(null)
const opened = (c: Schemas['ContainerOfRelease'], which: string, items: number, what: string) =>
  (group.value = {
    group: which,
    container: c.containerId,
    title: `${plural(items, 'item')} in ${names.value.get(c.containerId)} ${what}`,
  })
const says = computed(() =>
  asked
    ? `Release ${plural(figures.value?.all.items ?? 0, 'item')}`
    : `Ask for the release of ${plural(figures.value?.all.items ?? 0, 'item')}`,
)
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="`${narrowed ? 'Narrow' : 'Release'} order ${order.number}: ${order.name}`"
    width="760"
    append-to-body
    @closed="emit('close')"
  >
    <p v-if="asked" class="asked">{{ asked.askedBy }} asks for it: “{{ asked.why }}”</p>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-else-if="data && figures">
      <p>
        Of
        <button
          class="link"
          @click="group = { group: 'all', title: `${plural(figures!.all.items, 'item')} that would be released` }"
        >
          {{ plural(figures.all.items, 'item') }}</button>, {{ bytes(figures.all.bytes) }}, on
        <strong :title="data.day">{{ day(data.day) }}</strong>:
      </p>
      <div class="figures" :aria-busy="isFetching">
        <div v-for="p in parts" :key="p.group">
          <strong :style="{ color: p.tally.items ? `var(--${p.tone})` : undefined }">{{
            count(p.tally.items)
          }}</strong><button
            v-if="p.tally.items"
            class="link small"
            :data-group="p.group"
            @click="group = { group: p.group, title: `${plural(p.tally.items, 'item')}: ${p.label}` }"
          >
            {{ p.label }}</button
          ><span v-else class="small quiet">{{ p.label }}</span
          ><span class="small quiet">{{ p.tally.items ? bytes(p.tally.bytes) : ' ' }}</span>
        </div>
      </div>
      <p v-if="figures.byMonth.length || figures.keptLonger.items" class="small quiet">
        Under retention until:
        <template v-for="(m, i) in figures.byMonth.slice(0, 6)" :key="m.month"
          >{{ i ? ', ' : '' }}{{ monthWords(m.month) }} ({{ count(m.items) }})</template
        ><template v-if="figures.byMonth.length > 6"
          >, and {{ plural(figures.byMonth.length - 6, 'more month') }} to
          {{ monthWords(figures.byMonth.at(-1)!.month) }}</template
        ><template v-if="figures.keptLonger.items"
          >{{ figures.byMonth.length ? ', ' : '' }}permanently or until an event ({{
            count(figures.keptLonger.items)
          }})</template
        >.
      </p>
      <ReleasedEvents :matter="matter.id" :order="order" :narrowed="narrowed" :delay="settled" />
      <details class="small">
        <summary>By container ({{ figures.byContainer.length }})</summary>
        <table class="sheet">
          <thead>
            <tr>
              <th>Container</th>
              <th class="num">items</th>
              <th class="num">stay held</th>
              <th class="num">become due</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in figures.byContainer" :key="c.containerId">
              <td>{{ names.get(c.containerId) }}</td>
              <td class="num">
                <button class="link" @click="opened(c, 'all', c.items, 'that would be released')">
                  {{ count(c.items) }}
                </button>
              </td>
              <td class="num">
                <button
                  v-if="c.stayHeld"
                  class="link"
                  @click="opened(c, 'staysHeld', c.stayHeld, 'held by other orders')"
                >
                  {{ count(c.stayHeld) }}</button><span v-else>0</span>
              </td>
              <td class="num">
                <button
                  v-if="c.becomeDue"
                  class="link"
                  @click="opened(c, 'becomesDue', c.becomeDue, 'that become due')"
                >
                  {{ count(c.becomeDue) }}</button><span v-else>0</span>
              </td>
            </tr>
          </tbody>
        </table>
      </details>
      <div class="fields">
        <label v-if="!asked" class="label" for="r-delay"
          >Days before anything of it can be disposed of, at least {{ matter.delayDays }}</label
        >
        <el-input-number v-if="!asked" id="r-delay" v-model="delay" :min="matter.delayDays" :max="3650" size="small" />
        <label class="label" for="r-why">Why, for the history</label
        ><el-input id="r-why" v-model="why" type="textarea" :rows="2" maxlength="1000" />
        <p class="small quiet">
          {{
            asked
              ? 'From your agreement on the order keeps it no longer; until the delay has passed a lead can undo it.'
              : 'Nothing changes before another member agrees. After that the delay runs, and within it the release can be undone.'
          }}
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </div>
    </template>
    <template #footer
      ><el-button @click="shown = false">Cancel</el-button
      ><el-button
        :type="figures?.becomeDue.items ? 'danger' : 'primary'"
        :disabled="!data || settled !== delay || isFetching || !why.trim()"
        :loading="busy"
        @click="emit('go', why, delay, data!.fingerprint)"
        >{{ says }}</el-button
      ></template
    >
    <GroupList
      v-if="group"
      :id="['release', order.id, group.group, group.container, data?.fingerprint]"
      :title="group.title"
      :load="
        () =>
          take(
            api.POST('/api/matters/{id}/orders/{order}/releases/consequences/{group}', {
              params: {
                path: { id: matter.id, order: order.id, group: group!.group },
                query: { delay: settled, container: group!.container },
              },
              body: { narrowed },
            }),
          )
      "
      @close="group = null"
    />
  </el-dialog>
</template>

<style scoped>
p {
  margin: 0 0 10px;
}
.asked {
  padding: 6px 10px;
  background: var(--copper-wash);
  border-left: 3px solid var(--copper);
}
.figures {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  border: 1px solid var(--line);
  border-radius: var(--radius);
  margin-bottom: 10px;
}
.figures div {
  display: grid;
  justify-items: start;
  align-content: start;
  gap: 2px;
  padding: 10px 12px;
  border-right: 1px solid var(--line);
}
.figures div:last-child {
  border-right: 0;
}
.figures .link {
  text-align: left;
}
.figures strong {
  font: 600 24px/1.1 var(--serif);
}
details {
  margin-bottom: 12px;
}
summary {
  cursor: pointer;
  color: var(--ink-2);
}
</style>
