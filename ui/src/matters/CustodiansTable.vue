<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { today } from '@/shared/session'

/** The custodians of a matter: their places, what holds them, and the notices they got and acknowledged. */
const { matter, brief } = defineProps<{ matter: Schemas['MatterView']; may: boolean; brief: boolean; busy: boolean }>()
const emit = defineEmits<{
  edit: [custodian: Schemas['CustodianView']]
  /** The copy of the notice. */
  remind: [copy: number]
  remove: [custodian: Schemas['CustodianView']]
  /** Whether a place that was found is the custodian's. */
  decide: [custodian: Schemas['CustodianView'], place: number, theirs: boolean]
}>()
const mayDecide = computed(() => !brief && matter.part !== 'reader')
const copyOf = (c: Schemas['CustodianView']) =>
  matter.notices.find((n) => n.version === c.noticeVersion)?.copies.find((x) => x.custodianId === c.id)
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th>Custodian</th>
        <th v-if="!brief">Places</th>
        <th>Held by</th>
        <th>Notified</th>
        <th>Opened</th>
        <th>Acknowledged</th>
        <th v-if="may"><span class="sr">Acts</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in matter.custodians" :key="c.id">
        <td>
          <strong>{{ c.name }}</strong><br /><span class="small quiet">{{ c.title }}, {{ c.unit }}</span
          ><br v-if="c.leavesOn" /><span v-if="c.leavesOn" class="small late"
            >{{ c.leavesOn < today ? 'left' : 'leaves' }} {{ day(c.leavesOn) }}</span
          >
        </td>
        <td v-if="!brief" class="small">
          <span v-for="(p, i) in c.containers" :key="p.id"
            >{{ i ? ', ' : '' }}<RouterLink :to="`/content?container=${p.id}`">{{ p.name }}</RouterLink></span
          ><template v-if="c.authored">{{ c.containers.length ? ', and ' : '' }}whatever they wrote</template>
          <div v-for="p in c.foundPlaces" :key="p.id" class="found">
            <span class="late">New:</span>{{ ' ' }}
            <RouterLink :to="`/content?container=${p.id}`">{{ p.name }}</RouterLink>{{ ' ' }}
            <span class="quiet">on {{ p.source }}, counts as theirs until somebody decides</span>
            <template v-if="mayDecide"
              ><button class="link" :disabled="busy" @click="emit('decide', c, p.id, true)">It is theirs</button
              ><button class="link" :disabled="busy" @click="emit('decide', c, p.id, false)">
                It is not
              </button></template
            >
          </div>
        </td>
        <td :class="{ short: brief }">{{ c.ordersInForce ? plural(c.ordersInForce, 'order') : 'nothing' }}</td>
        <td>
          <template v-if="c.noticeSentAt"
            ><span class="short">{{ day(c.noticeSentAt) }}</span
            ><br /><span class="small quiet"
              >version {{ c.noticeVersion }}{{ c.reminders ? `, ${plural(c.reminders, 'reminder')}` : '' }}</span
            ><template v-if="c.escalatedAt"><br /><span class="small quiet">manager notified</span></template></template
          ><span v-else class="late">not yet</span>
        </td>
        <td :class="{ short: brief }">{{ c.openedAt ? day(c.openedAt) : '–' }}</td>
        <td :class="{ short: brief }">
          <span v-if="c.acknowledgedAt" class="settled"
            ><svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
              <path d="M1.500 6.500 4.500 9.500 10.500 2.500" fill="none" stroke="currentColor" stroke-width="1.800" />
            </svg>
            {{ day(c.acknowledgedAt) }}</span
          ><span v-else-if="c.daysOutstanding !== null" :class="{ late: c.daysOutstanding >= 14 }">{{
            c.daysOutstanding === 0 ? 'sent today' : `${plural(c.daysOutstanding, 'day')} outstanding`
          }}</span
          ><span v-else>–</span>
        </td>
        <td v-if="may" class="acts">
          <button class="link" @click="emit('edit', c)">Places …</button
          ><button
            v-if="c.daysOutstanding !== null && copyOf(c)"
            class="link"
            :disabled="busy"
            @click="emit('remind', copyOf(c)!.id)"
          >
            Remind</button
          ><button
            v-if="matter.part === 'lead' && !c.noticeSentAt"
            class="link"
            :disabled="busy"
            @click="emit('remove', c)"
          >
            Remove
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.late {
  color: var(--copper);
}
.short,
.settled {
  white-space: nowrap;
}
.settled {
  color: var(--sea);
}
.found .link {
  margin-left: 10px;
  font-size: 12.5px;
}
.acts .link {
  display: block;
  min-height: 24px;
  white-space: nowrap;
  font-size: 12.5px;
}
</style>
