<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, reactive, ref } from 'vue'
import { may, today } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { count, day, keepUntil, moment, plural } from '@/shared/format'
import StateMark from '@/shared/StateMark.vue'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import EventsCsv from './EventsCsv.vue'
import EventTypeDialog from './EventTypeDialog.vue'
import SchedulePage from './SchedulePage.vue'
import { keepTyped } from '@/shared/typed'

const { list, put, text } = useUrl()
const type = text('type')
const subject = text('subject')
const typed = ref(subject.value)
const types = useQuery({ queryKey: ['trigger-event-types'], queryFn: () => take(api.GET('/api/trigger-event-types')) })
const events = useInfiniteQuery({
  queryKey: computed(() => ['trigger-events', type.value, subject.value]),
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/trigger-events', {
        params: { query: { type: type.value || undefined, subject: subject.value || undefined, cursor: pageParam } },
      }),
    ),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
  placeholderData: keepPreviousData,
})
const told = computed(() => events.data.value?.pages.flatMap((p) => p.events) ?? [])
const total = computed(() => events.data.value?.pages[0]?.total ?? 0)
const about = useQuery({
  queryKey: computed(() => ['subject', subject.value]),
  queryFn: () => take(api.GET('/api/subjects/{subject}', { params: { path: { subject: subject.value } } })),
  enabled: computed(() => !!subject.value && may('readContent')),
})
const { act, busy, problem } = useAct(['schedule'], {
  refused: async () =>
    Promise.all([dialog.value === 'tell' && preview.refetch(), revoking.value && revocation.refetch()]),
})
const dialog = ref<'tell' | 'csv' | 'type' | null>(list('new')[0] === 'event' ? 'tell' : null)
const editing = ref<Schemas['TriggerEventTypeView'] | null>(null)
const revoking = ref<Schemas['TriggerEventView'] | null>(null)
const form = reactive({ type: type.value || '', subject: subject.value, date: today.value, note: '' })
const saved = keepTyped('event.new', form)
const whole = computed(() => !!form.type && !!form.subject.trim() && /^\d{4}-\d\d-\d\d$/.test(form.date))
const body = computed(() => ({ ...form, subject: form.subject.trim(), reference: null }))
const preview = useQuery({
  queryKey: computed(() => ['event', body.value]),
  queryFn: () => take(api.POST('/api/trigger-events/consequences', { body: body.value })),
  enabled: computed(() => dialog.value === 'tell' && whole.value),
  gcTime: 0,
  retry: false,
})
const revocation = useQuery({
  queryKey: computed(() => ['revocation', revoking.value?.id]),
  queryFn: () =>
    take(
      api.POST('/api/trigger-events/{id}/revocation/consequences', { params: { path: { id: revoking.value!.id } } }),
    ),
  enabled: computed(() => !!revoking.value),
  gcTime: 0,
})
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const moved = computed(() =>
  preview.data.value ? preview.data.value.figures.inReach.items - preview.data.value.figures.unchanged.items : 0,
)

async function tell() {
  const done = await act(async () => {
    await take(
      api.POST('/api/trigger-events', { body: { ...body.value, fingerprint: preview.data.value!.fingerprint } }),
    )
    ElMessage({ message: `Told. ${plural(moved.value, 'item')} changed.`, type: 'success' })
  })
  if (done) {
    saved()
    dialog.value = null
  }
}
async function revoke(why: string) {
  if (
    await act(() =>
      take(
        api.POST('/api/trigger-events/{id}/revocation', {
          params: { path: { id: revoking.value!.id } },
          body: { why, fingerprint: revocation.data.value!.fingerprint },
        }),
      ),
    )
  )
    revoking.value = null
}
</script>

<template>
  <SchedulePage
    title="Events"
    note="outside facts that start clocks"
    :problem="(types.error.value ?? events.error.value)?.message"
  >
    <template #acts
      ><template v-if="may('writeTriggerEvents')"
        ><el-button @click="((editing = null), (dialog = 'type'))">New type</el-button
        ><el-button @click="dialog = 'csv'">Bring in a CSV</el-button
        ><el-button type="primary" @click="((problem = null), (dialog = 'tell'))">Tell an event</el-button></template
      ></template
    >
    <section v-if="types.data.value?.length === 0" class="panel block">
      <h2>No event type yet</h2>
      <p class="quiet">
        An event type is something that happens outside, such as “vessel sold”. Rules count from it; the subject of the
        event finds the items by their subject reference.
      </p>
    </section>
    <section v-else class="panel block" aria-label="Event types">
      <table class="sheet">
        <thead>
          <tr>
            <th>Type</th>
            <th>Starts the clocks of</th>
            <th class="num">Events</th>
            <th>Latest</th>
            <th><span class="sr">Change</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in types.data.value ?? []" :key="t.id" :class="{ open: type === t.name }">
            <td>
              <button
                class="link"
                :aria-pressed="type === t.name"
                @click="put({ type: type === t.name ? null : t.name })"
              >
                {{ t.title }}
              </button>
              {{ ' ' }}
              <code class="small quiet">{{ t.name }}</code>
            </td>
            <td>{{ t.series.join(', ') || '–' }}</td>
            <td class="num" :class="{ lacking: t.events === 0 && t.series.length > 0 }">{{ count(t.events) }}</td>
            <td>{{ day(t.latest) }}</td>
            <td class="num">
              <button
                v-if="may('writeTriggerEvents')"
                class="link"
                :aria-label="`Change ${t.title}`"
                @click="((editing = t), (dialog = 'type'))"
              >
                Change
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section class="panel block" aria-label="Events">
      <header class="acts-row">
        <h2>{{ subject ? `Events of ${subject}` : 'What was told' }}</h2>
        <el-input
          v-model="typed"
          class="subject"
          placeholder="Subject, such as IMO9901005"
          aria-label="Subject"
          clearable
          @change="put({ subject: typed.trim() || null })"
        />
        <span class="small quiet">{{ plural(total, 'event') }}</span>
      </header>
      <table v-if="told.length" class="sheet">
        <thead>
          <tr>
            <th>Event</th>
            <th>Subject</th>
            <th>Date</th>
            <th>Told</th>
            <th><span class="sr">Revoke</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in told" :key="e.id">
            <td>
              <span :class="{ struck: e.revokedAt }">{{ e.typeTitle }}</span><span
                v-if="!e.revokedAt && !e.counts"
                class="small quiet"
              >
                a later one counts</span
              >
              <div v-if="e.note" class="small quiet">{{ e.note }}</div>
            </td>
            <td>
              <button class="link" @click="((typed = e.subject), put({ subject: e.subject }, true))">
                {{ e.subject }}
              </button>
            </td>
            <td :title="e.date">{{ day(e.date) }}</td>
            <td class="small">
              {{ moment(e.toldAt) }}, {{ e.toldBy }}
              <div v-if="e.reference" class="quiet">{{ e.reference }}</div>
              <div v-if="e.revokedAt" class="lacking">revoked by {{ e.revokedBy }}: {{ e.revokedWhy }}</div>
            </td>
            <td class="num">
              <button
                v-if="may('writeTriggerEvents') && !e.revokedAt"
                class="link"
                :aria-label="`Revoke ${e.typeTitle} of ${e.subject}`"
                @click="((problem = null), (revoking = e))"
              >
                Revoke
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="events.hasNextPage.value">
        <el-button :loading="events.isFetchingNextPage.value" @click="events.fetchNextPage()">{{
          plural(total - told.length, 'earlier one')
        }}</el-button>
      </p>
      <p v-else-if="events.data.value && !told.length" class="quiet">
        {{ subject ? `Nothing was told of ${subject} yet.` : 'Nothing was told yet.' }}
      </p>
    </section>
    <section v-if="subject && about.data.value" class="panel block" aria-label="Items of the subject">
      <h2>{{ plural(about.data.value.items.total, 'item') }} about {{ subject }}</h2>
      <table v-if="about.data.value.items.total" class="sheet">
        <thead>
          <tr>
            <th>Title</th>
            <th>Series</th>
            <th>State</th>
            <th>Clock started</th>
            <th>Kept until</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in about.data.value.items.items" :key="i.id">
            <td>
              <RouterLink :to="`/content?item=${i.id}`">{{ i.title }}</RouterLink>
            </td>
            <td>{{ i.series?.code ?? '–' }}</td>
            <td><StateMark :state="i.state" /></td>
            <td>{{ day(i.tideline.start) }}</td>
            <td>{{ keepUntil(i.tideline.keepUntil) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="about.data.value.items.total > about.data.value.items.items.length" class="small quiet">
        The first {{ about.data.value.items.items.length }};
        <RouterLink :to="{ path: '/content', query: { subject } }">all of them in Content</RouterLink>.
      </p>
    </section>
    <el-dialog
      :model-value="dialog === 'tell'"
      title="Tell an event"
      width="620"
      append-to-body
      @update:model-value="dialog = null"
    >
      <form class="fields" @submit.prevent="tell">
        <label class="label" for="e-type">What happened</label>
        <el-select id="e-type" v-model="form.type" aria-label="Event type" filterable placeholder="Event type"
          ><el-option v-for="t in types.data.value ?? []" :key="t.id" :value="t.name" :label="t.title"
        /></el-select>
        <label class="label" for="e-subject">To which subject</label
        ><el-input id="e-subject" v-model="form.subject" placeholder="IMO9901005" />
        <label class="label" for="e-date">On which day</label
        ><input id="e-date" v-model="form.date" type="date" class="date" />
        <label class="label" for="e-note">Note</label><el-input id="e-note" v-model="form.note" />
        <Consequences
          v-if="whole"
          :view="preview.data.value"
          :loading="preview.isFetching.value"
          :problem="preview.error.value?.message"
          :load="
            (group) => take(api.POST('/api/trigger-events/consequences/{group}', { params: { path: { group } }, body }))
          "
          of="event"
        />
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="dialog = null">Leave it</el-button
        ><el-button
          :type="due ? 'danger' : 'primary'"
          :disabled="!whole || !preview.data.value || preview.isFetching.value"
          :loading="busy"
          @click="tell"
          >{{
            whole && preview.data.value
              ? `Tell it — ${due ? '' : `${plural(moved, 'item changes', 'items change')}, `}${becomeDue(due)}`
              : 'Tell it'
          }}</el-button
        ></template
      >
    </el-dialog>
    <EventsCsv v-if="dialog === 'csv'" @close="dialog = null" />
    <EventTypeDialog v-if="dialog === 'type'" :type="editing" @close="dialog = null" />
    <WhyDialog
      v-if="revoking"
      :title="`Revoke ${revoking.typeTitle} of ${revoking.subject}`"
      says="Revoke it"
      danger
      :ready="!!revocation.data.value && !revocation.isFetching.value"
      :busy="busy"
      :problem="problem"
      @go="revoke"
      @close="revoking = null"
    >
      <p>The clocks that it started go back to the event before it, or wait again. The entry stays, struck out.</p>
      <Consequences
        :view="revocation.data.value"
        :loading="revocation.isFetching.value"
        :problem="revocation.error.value?.message"
        :load="
          (group) =>
            take(
              api.POST('/api/trigger-events/{id}/revocation/consequences/{group}', {
                params: { path: { id: revoking!.id, group } },
              }),
            )
        "
        of="revocation"
      />
    </WhyDialog>
  </SchedulePage>
</template>

<style scoped>
.subject {
  width: 230px;
  margin-left: auto;
}
.struck {
  text-decoration: line-through;
  color: var(--ink-2);
}
.date {
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  height: 32px;
  padding: 0 8px;
  width: 170px;
}
</style>
