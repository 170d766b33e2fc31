<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import Workbench from '@/shared/Workbench.vue'
import MatterHistory from './MatterHistory.vue'
import MatterPane from './MatterPane.vue'
import OpenMatter from './OpenMatter.vue'
import { kindWords, matterStateWords, partWords } from './words'
import { useLoaded } from '@/shared/loaded'
import { matterQuery } from './own'

const route = useRoute()
const router = useRouter()
const open = computed(() => (route.params.id ? Number(route.params.id) : null))
const shown = useLoaded(open, matterQuery)
const { data, error } = useQuery({ queryKey: ['matters'], queryFn: () => take(api.GET('/api/matters')) })
const others = useQuery({
  queryKey: ['matters', 'others'],
  queryFn: () => take(api.GET('/api/matters/others')),
  enabled: computed(() => may('joinMatters')),
})
const { act, busy, problem } = useAct(['matters'])
const adding = ref(false)
const joining = ref<Schemas['OtherMatter'] | null>(null)
async function join(why: string) {
  const id = joining.value!.id
  await act(async () => {
    await take(api.POST('/api/matters/{id}/joining', { params: { path: { id } }, body: { why } }))
    joining.value = null
    await router.push(`/matters/${id}`)
  })
}
</script>

<template>
  <Workbench name="matters" :subject="!!open" :side="!!open" :list-width="270">
    <template #list>
      <header class="head">
        <h1>Matters</h1>
        <span v-if="!open" class="quiet small">disputes, investigations and requests of which you are a member</span
        ><el-button v-if="may('openMatters')" size="small" class="right" @click="adding = true"
          >Open a matter</el-button
        >
      </header>
      <p v-if="error" class="problem pad" role="alert">{{ error.message }}</p>
      <section v-if="data?.length === 0" class="empty">
        <h2>No matter of yours yet</h2>
        <p class="quiet">
          A matter gathers who is in it, whose information it needs, what is held, who was notified, what was found and
          what was handed over. Nobody but its members learns that it exists.
        </p>
      </section>
      <div v-else-if="open" class="scroll">
        <RouterLink
          v-for="m in data ?? []"
          :key="m.id"
          :to="`/matters/${m.id}`"
          class="entry"
          :class="{ open: m.id === open }"
          :aria-current="m.id === open"
        >
          <strong>{{ m.name }}</strong><small class="quiet"
            >{{ m.number }} · {{ matterStateWords[m.state] }} · {{ count(m.held) }} held</small
          >
        </RouterLink>
      </div>
      <div v-else class="scroll pad">
        <table class="sheet" aria-label="Matters">
          <thead>
            <tr>
              <th>Matter</th>
              <th>Kind</th>
              <th>State</th>
              <th>Unit</th>
              <th class="num">Custodians</th>
              <th class="num">Unacknowledged</th>
              <th class="num">Orders in force</th>
              <th class="num">Items held</th>
              <th>Opened</th>
              <th>You are</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in data ?? []" :key="m.id">
              <td>
                <RouterLink :to="`/matters/${m.id}`"
                  ><strong>{{ m.name }}</strong></RouterLink
                >
                {{ ' ' }}
                <span class="quiet small">{{ m.number }}</span>
              </td>
              <td>{{ kindWords[m.kind] }}</td>
              <td>{{ matterStateWords[m.state] }}</td>
              <td>{{ m.unit }}</td>
              <td class="num">
                <RouterLink :to="`/matters/${m.id}?tab=custodians`">{{ count(m.custodians) }}</RouterLink>
              </td>
              <td class="num" :class="{ late: m.unacknowledged }">{{ m.unacknowledged || '–' }}</td>
              <td class="num">
                <RouterLink :to="`/matters/${m.id}?tab=orders`">{{ count(m.ordersInForce) }}</RouterLink>
              </td>
              <td class="num">{{ count(m.held) }}</td>
              <td>
                {{ day(m.openedAt) }}<span class="quiet"> by {{ m.openedBy }}</span>
              </td>
              <td>{{ partWords[m.part] }}</td>
            </tr>
          </tbody>
        </table>
        <section v-if="others.data.value?.length" class="others" aria-label="Other matters">
          <h2>Other matters</h2>
          <p class="small quiet">
            You are not a member of these, and see no more of them than this. As legal lead you may join; the ledger and
            the matter’s history say that you did.
          </p>
          <table class="sheet">
            <thead>
              <tr>
                <th>Number</th>
                <th>Unit</th>
                <th>State</th>
                <th>Leads</th>
                <th><span class="sr">Join</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="o in others.data.value" :key="o.id">
                <td>{{ o.number }}</td>
                <td>{{ o.unit }}</td>
                <td>{{ matterStateWords[o.state] }}</td>
                <td>{{ o.leads.join(', ') }}</td>
                <td><button class="link" @click="((problem = null), (joining = o))">Join …</button></td>
              </tr>
            </tbody>
          </table>
        </section>
      </div>
    </template>
    <template #subject><MatterPane v-if="shown" :id="shown" :key="shown" /></template>
    <template #side><MatterHistory v-if="shown" :id="shown" :key="shown" /></template>
  </Workbench>
  <OpenMatter v-if="adding" @close="adding = false" />
  <WhyDialog
    v-if="joining"
    :title="`Join ${joining.number}`"
    says="Join as a lead"
    :busy="busy"
    :problem="problem"
    label="Why you join"
    @go="join"
    @close="joining = null"
    ><p>{{ plural(joining.leads.length, 'lead') }} of it can read that you joined, and why.</p></WhyDialog
  >
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 14px 16px 10px;
  border-bottom: 1px solid var(--line);
}
.right {
  margin-left: auto;
}
h1 {
  font-size: 18px;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.pad {
  padding: 12px 16px;
  margin: 0;
}
.entry {
  display: grid;
  padding: 8px 16px;
  border-bottom: 1px solid var(--line);
  text-decoration: none;
  line-height: 1.35;
}
.entry:hover {
  background: var(--sheet-2);
}
.entry.open {
  background: var(--sea-wash);
  box-shadow: inset 3px 0 0 var(--sea);
}
.entry small {
  font-size: 12px;
}
.empty {
  padding: 32px;
  max-width: 640px;
}
.late {
  color: var(--copper);
  font-weight: 600;
}
.others {
  margin-top: 32px;
  display: grid;
  gap: 6px;
}
.others h2 {
  font-size: 16px;
}
</style>
