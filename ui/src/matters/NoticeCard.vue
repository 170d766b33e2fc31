<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { day, moment, plural } from '@/shared/format'

/** A version of a notice: its text, and what each custodian did with it. */
defineProps<{ notice: Schemas['NoticeView'] }>()
</script>

<template>
  <article class="panel notice">
    <h3>
      {{ notice.kind === 'hold' ? 'Notice' : 'Release notice' }}, version {{ notice.version
      }}<span v-if="notice.superseded" class="quiet"> · superseded</span>
    </h3>
    <p class="small quiet">
      Issued {{ moment(notice.issuedAt) }} by {{ notice.issuedBy }} · sent to {{ notice.sent }}, opened by
      {{ notice.opened
      }}<template v-if="notice.kind === 'hold'"
        >, acknowledged by {{ notice.acknowledged }} ·
        {{ notice.remindDays ? `reminds every ${plural(notice.remindDays, 'day')}` : 'never reminds' }},
        {{
          notice.escalateDays
            ? `notifies the manager after ${plural(notice.escalateDays, 'day')}`
            : 'notifies no manager'
        }}</template
      >
    </p>
    <details>
      <summary>{{ notice.subject }}</summary>
      <pre>{{ notice.body }}</pre>
    </details>
    <table v-if="notice.kind === 'hold'" class="sheet">
      <thead>
        <tr>
          <th>Custodian</th>
          <th>Opened</th>
          <th>Acknowledged</th>
          <th v-for="q in notice.questions" :key="q">{{ q }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in notice.copies" :key="c.id">
          <td class="short">{{ c.name }}</td>
          <td class="short">{{ c.openedAt ? day(c.openedAt) : '–' }}</td>
          <td>
            {{
              c.acknowledgedAt ? day(c.acknowledgedAt) : c.reminders ? `${plural(c.reminders, 'reminder')} sent` : '–'
            }}
          </td>
          <td v-for="(q, i) in notice.questions" :key="q">{{ c.answers[i] ?? '' }}</td>
        </tr>
      </tbody>
    </table>
  </article>
</template>

<style scoped>
h3 {
  font-size: 15px;
  margin: 0;
}
.notice {
  padding: 12px 16px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
}
p {
  margin: 0;
}
.short {
  white-space: nowrap;
}
summary {
  cursor: pointer;
}
pre {
  font: 400 14px/1.55 var(--sans);
  white-space: pre-wrap;
  margin: 6px 0 0;
}
</style>
