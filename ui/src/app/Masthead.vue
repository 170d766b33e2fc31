<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { gathered, useBadges, useShown } from '@/shared/parts'
import FindField from './FindField.vue'
import KeysHelp from './KeysHelp.vue'
import PersonMenu from './PersonMenu.vue'

const { at } = defineProps<{ at: string }>()
const keys = ref(false)
const all = gathered((p) => p.places).filter((p) => !p.inMenu)
const tabs = gathered((p) => p.tabs)
const shown = useShown(all)
const shownTabs = useShown(tabs)
const badge = useBadges(all)
const tools = useShown(gathered((p) => p.tools))
/** A place leads to the first of its tabs that shows. */
const places = computed(() =>
  shown.value.map((p) => ({ ...p, first: shownTabs.value.find((t) => t.place === p.key)?.to ?? p.to })),
)

useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if ((e.target as HTMLElement).closest('input, textarea, select')) return
  if (e.key === '?') keys.value = true
})
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
        :key="place.key"
        :to="place.first"
        :class="{ active: at === place.key }"
        :aria-current="at === place.key ? 'page' : undefined"
      >
        {{ place.label }}<span v-if="badge(place.to)" class="badge">{{ badge(place.to) }}</span>
        <svg v-if="at === place.key" class="hull" width="40" height="7" viewBox="0 0 40 7" aria-hidden="true">
          <path d="M0 7 5 2.500Q20-1.500 35 2.500L40 7Z" />
        </svg>
      </RouterLink>
    </nav>
    <FindField />
    <component :is="tool.component" v-for="(tool, i) in tools" :key="i" />
    <PersonMenu @keys="keys = true" />
    <KeysHelp v-model="keys" />
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
