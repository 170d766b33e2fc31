<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import SetUp from '@/people/SetUp.vue'
import FactorFirst from '@/people/FactorFirst.vue'
import LinkCode from '@/shared/LinkCode.vue'
import SignIn from '@/people/SignIn.vue'
import Masthead from './Masthead.vue'
import PlaceTabs from './PlaceTabs.vue'
import { useQueryClient } from '@tanstack/vue-query'
import { loadSession, person, session } from '@/shared/session'

const route = useRoute()
/** The place whose tabs show; a route says it, or works it out. */
const place = computed(() => {
  const said = route.meta.place as string | (() => string) | undefined
  return typeof said === 'function' ? said() : (said ?? '')
})
const client = useQueryClient()
// What one person was shown is never there for the next.
watch(
  () => person.value?.id,
  (now, before) => before !== undefined && now !== before && client.clear(),
)
const problem = ref<string | null>(null)
onMounted(async () => {
  try {
    await loadSession()
  } catch (e) {
    problem.value = (e as Error).message
  }
})
</script>

<template>
  <p v-if="problem" class="wait" role="alert">{{ problem }}</p>
  <p v-else-if="!session" class="wait quiet" role="status">Opening …</p>
  <div v-else-if="route.meta.public || (route.meta.open && route.params.token)" class="alone">
    <RouterView /><LinkCode />
  </div>
  <SetUp v-else-if="session.needsSetUp" />
  <SignIn v-else-if="!person" />
  <main v-else-if="person.factorIsMissing" class="first">
    <div class="panel"><FactorFirst /></div>
  </main>
  <div v-else class="app">
    <a class="skip" href="#place">Skip to the place</a>
    <Masthead :at="place" />
    <PlaceTabs :place="place" />
    <div id="place" class="place" tabindex="-1"><RouterView /></div>
  </div>
</template>

<style scoped>
.wait {
  padding: 60px;
  text-align: center;
}
.app {
  display: grid;
  grid-template-rows: 52px auto minmax(0, 1fr);
  height: 100%;
}
.first {
  min-height: 100%;
  display: grid;
  place-items: center;
}
.first .panel {
  padding: 28px;
  box-shadow: var(--shadow);
}
.alone {
  height: 100%;
  overflow: auto;
}
.place {
  grid-row: 3;
  min-height: 0;
  overflow: auto;
  outline: none;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 20;
  background: var(--sheet);
  padding: 6px 12px;
}
@media (max-width: 900px) {
  .app {
    grid-template-rows: auto auto minmax(0, 1fr);
  }
}
</style>
