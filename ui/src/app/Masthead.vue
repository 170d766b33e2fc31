<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, take } from '@/shared/api/client'
import { roleWords } from '@/shared/words'
import CalendarFeed from './CalendarFeed.vue'
import FindField from './FindField.vue'
import JobTray from './JobTray.vue'
import KeysHelp from './KeysHelp.vue'
import { density, look } from './look'
import { may, person, session, signOut } from './session'

const route = useRoute()
const menu = ref(false)
const keys = ref(false)
const feed = ref(false)
const { data: work } = useQuery({ queryKey: ['today'], queryFn: () => take(api.GET('/api/today')) })
const { data: proposals } = useQuery({ queryKey: ['proposals'], queryFn: () => take(api.GET('/api/proposals')) })
const { data: questions } = useQuery({ queryKey: ['questions'], queryFn: () => take(api.GET('/api/questions')) })
const { data: matters } = useQuery({ queryKey: ['matters'], queryFn: () => take(api.GET('/api/matters')) })
/** Everything that stands on Today. */
const waits = computed(
  () =>
    (work.value?.waiting.length ?? 0) +
    (proposals.value?.filter((p) => p.state === 'waiting').length ?? 0) +
    (questions.value?.length ?? 0),
)

const places = computed(() =>
  [
    { to: '/', label: 'Today', show: true, badge: waits.value },
    { to: '/content', label: 'Content', show: may('readContent') },
    { to: '/schedule', label: 'Schedule', show: may('readSchedule') },
    { to: '/schedule/docket', label: 'Docket', show: may('readDocket') },
    { to: '/matters', label: 'Matters', show: may('openMatters') || (matters.value?.length ?? 0) > 0 },
    { to: '/my-files', label: 'My files', show: may('workContent') },
    { to: '/ledger', label: 'Ledger', show: may('readLedger') },
    { to: '/administration/sources', label: 'Sources', show: may('readSources') },
    { to: '/administration/people', label: 'People', show: may('managePeople') },
  ].filter((p) => p.show),
)
const active = computed(() => {
  const path = route.path
  if (path.startsWith('/schedule/docket') || path.startsWith('/schedule/certificates')) return '/schedule/docket'
  return [...places.value].reverse().find((p) => p.to !== '/' && path.startsWith(p.to))?.to ?? (path === '/' ? '/' : '')
})
const remit = computed(() => person.value?.remits.map((r) => `${roleWords[r.role]} · ${r.unit}`).join(', ') ?? '')

useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if ((e.target as HTMLElement).closest('input, textarea, select')) return
  if (e.key === '?') keys.value = true
})
async function leave() {
  menu.value = false
  await signOut()
}
</script>

<template>
  <header class="masthead">
    <RouterLink to="/" class="name" aria-label="Wide Keel, to Today">
      <svg width="28" height="18" viewBox="0 0 28 18" aria-hidden="true">
        <path
          d="M1 2h26l-4.5 7h-17zM9.500 9h9L14 16z"
          fill="none"
          stroke="#e8a272"
          stroke-width="2"
          stroke-linejoin="round"
        />
      </svg>
      Wide Keel
    </RouterLink>
    <nav aria-label="Places">
      <RouterLink
        v-for="place in places"
        :key="place.to"
        :to="place.to"
        :class="{ active: active === place.to }"
        :aria-current="active === place.to ? 'page' : undefined"
      >
        {{ place.label }}<span v-if="place.badge" class="badge">{{ place.badge }}</span>
        <svg v-if="active === place.to" class="hull" width="40" height="7" viewBox="0 0 40 7" aria-hidden="true">
          <path d="M0 7 5 2.500Q20-1.500 35 2.500L40 7Z" />
        </svg>
      </RouterLink>
    </nav>
    <FindField />
    <JobTray v-if="may('readJobs')" />
    <div class="person">
      <button :aria-expanded="menu" aria-haspopup="true" @click="menu = !menu">
        <strong>{{ person?.name }}</strong><span :title="remit">{{ remit }}</span>
      </button>
      <div v-if="menu" class="menu panel" @keydown.esc="menu = false">
        <p class="label">{{ session?.organisation }}</p>
        <fieldset>
          <legend class="label">Look</legend>
          <label v-for="l in ['light', 'night', 'contrast'] as const" :key="l"
            ><input v-model="look" type="radio" name="look" :value="l" />
            {{ { light: 'Light', night: 'Night', contrast: 'High contrast' }[l] }}</label
          >
        </fieldset>
        <fieldset>
          <legend class="label">Rows</legend>
          <label v-for="d in ['roomy', 'dense'] as const" :key="d"
            ><input v-model="density" type="radio" name="density" :value="d" />
            {{ { roomy: 'Roomy', dense: 'Dense' }[d] }}</label
          >
        </fieldset>
        <RouterLink to="/notices" @click="menu = false">Notices to me</RouterLink>
        <RouterLink v-if="may('manageSettings')" to="/administration/organisation" @click="menu = false"
          >Organisation</RouterLink
        >
        <RouterLink v-if="may('manageSettings')" to="/administration/messages" @click="menu = false"
          >Messages</RouterLink
        >
        <button class="link" @click="((feed = true), (menu = false))">Calendar feed</button>
        <button class="link" @click="((keys = true), (menu = false))">Keys</button>
        <button class="link" @click="leave">Sign out</button>
      </div>
    </div>
    <KeysHelp v-model="keys" />
    <CalendarFeed v-if="feed" @close="feed = false" />
  </header>
</template>

<style scoped>
.masthead {
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 20px;
  background: var(--deep);
  color: var(--on-deep);
  position: relative;
  z-index: 10;
}
.name {
  display: flex;
  align-items: center;
  gap: 10px;
  font: 600 17px var(--serif);
  text-decoration: none;
  white-space: nowrap;
}
nav {
  display: flex;
  align-self: stretch;
  gap: 2px;
  margin-left: 8px;
}
nav a {
  position: relative;
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 0 clamp(8px, 0.9vw, 14px);
  white-space: nowrap;
  text-decoration: none;
  color: #c9d6d1;
  font-size: 14.5px;
}
nav a:hover {
  color: #fff;
}
nav a.active {
  color: #fff;
  font-weight: 600;
}
.badge {
  background: #a2431a;
  color: #fffdf9;
  border-radius: 9px;
  font-size: 11.5px;
  font-weight: 600;
  padding: 1px 7px;
}
.hull {
  position: absolute;
  bottom: 0;
  left: 50%;
  transform: translateX(-50%);
  fill: var(--paper);
}
.person {
  position: relative;
  flex: none;
}
.person > button {
  background: none;
  border: 0;
  color: inherit;
  text-align: right;
  cursor: pointer;
  display: grid;
  line-height: 1.25;
  max-width: 190px;
}
.person > button strong {
  font-weight: 600;
  font-size: 13.5px;
}
.person > button span {
  font-size: 11.5px;
  color: #c9d6d1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.menu {
  position: absolute;
  right: 0;
  top: 44px;
  padding: 12px 16px;
  display: grid;
  gap: 10px;
  min-width: 190px;
  color: var(--ink);
  box-shadow: var(--shadow);
  justify-items: start;
}
.menu p {
  margin: 0;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 3px;
}
@media (max-width: 900px) {
  .masthead {
    flex-wrap: wrap;
    padding: 8px 12px;
  }
  nav {
    flex-wrap: wrap;
    min-height: 36px;
  }
}
</style>
