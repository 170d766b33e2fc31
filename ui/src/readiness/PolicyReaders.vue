<script setup lang="ts">
import { day, moment, plural } from '@/shared/format'
import type { Schemas } from '@/shared/api/client'
import { acknowledgementWords } from './words'

/** Everybody whom a policy binds, with what they acknowledged and when. */
defineProps<{ readers: readonly Schemas['PolicyReaderView'][] }>()
</script>

<template>
  <div>
    <table class="sheet">
      <thead>
        <tr>
          <th>Person</th>
          <th>Unit</th>
          <th>State</th>
          <th>Asked</th>
          <th>Acknowledged</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in readers.slice(0, 200)" :key="r.mail">
          <td>{{ r.name }}</td>
          <td>{{ r.unit }}</td>
          <td :class="{ lacking: r.state === 'overdue' }">{{ acknowledgementWords[r.state] }}</td>
          <td>
            {{ r.askedOn ? day(r.askedOn) : '–'
            }}<span v-if="r.reminders" class="small quiet"> · {{ plural(r.reminders, 'reminder') }}</span>
          </td>
          <td>
            {{
              r.acknowledgedAt
                ? `${moment(r.acknowledgedAt)}, version ${r.number}`
                : r.dueOn
                  ? `due ${day(r.dueOn)}`
                  : '–'
            }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="readers.length > 200" class="small quiet">
      The first 200 of {{ readers.length }}; a name finds the others.
    </p>
  </div>
</template>
