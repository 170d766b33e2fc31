<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { count, day, moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import EventsCsv from './EventsCsv.vue'
import EventTypeDialog from './EventTypeDialog.vue'
import ReportEvent from './ReportEvent.vue'
import SchedulePage from './SchedulePage.vue'
import SubjectItems from './SubjectItems.vue'

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
const reported = computed(() => events.data.value?.pages.flatMap((p) => p.events) ?? [])
const total = computed(() => events.data.value?.pages[0]?.total ?? 0)
const { act, busy, problem } = useAct(['schedule'], { refused: () => revocation.refetch() })
const dialog = ref<'report' | 'csv' | 'type' | null>(list('new')[0] === 'event' ? 'report' : null)
const editing = ref<Schemas['TriggerEventTypeView'] | null>(null)
const revoking = ref<Schemas['TriggerEventView'] | null>(null)
const revocation = useQuery({
  queryKey: computed(() => ['revocation', revoking.value?.id]),
  queryFn: () =>
    take(
      api.POST('/api/trigger-events/{id}/revocation/consequences', { params: { path: { id: revoking.value!.id } } }),
    ),
  enabled: computed(() => !!revoking.value),
  gcTime: 0,
})
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
        ><el-button type="primary" @click="dialog = 'report'">Report an event</el-button></template
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
        <h2>{{ subject ? `Events of ${subject}` : 'What was reported' }}</h2>
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
      <table v-if="reported.length" class="sheet">
        <thead>
          <tr>
            <th>Event</th>
            <th>Subject</th>
            <th>Date</th>
            <th>Reported</th>
            <th><span class="sr">Revoke</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in reported" :key="e.id">
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
          plural(total - reported.length, 'earlier one')
        }}</el-button>
      </p>
      <p v-else-if="events.data.value && !reported.length" class="quiet">
        {{ subject ? `Nothing has been reported of ${subject} yet.` : 'Nothing has been reported yet.' }}
      </p>
    </section>
    <SubjectItems v-if="subject && may('readContent')" :key="subject" :subject="subject" />
    <ReportEvent
      v-if="dialog === 'report'"
      :types="types.data.value ?? []"
      :type="type"
      :subject="subject"
      @close="dialog = null"
    />
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
</style>
