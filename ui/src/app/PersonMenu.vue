<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useFold } from '@/shared/fold'
import { density, look } from '@/shared/look'
import { gathered, useShown } from '@/shared/parts'
import { person, session, signOut } from '@/shared/session'
import { roleWords } from '@/shared/words'

/** The person who is signed in: how it looks, what is reached from here, signing out. */
const emit = defineEmits<{ keys: [] }>()
const open = useFold(useTemplateRef<HTMLElement>('root'))
const places = useShown(gathered((p) => p.places).filter((p) => p.inMenu))
const tabs = useShown(gathered((p) => p.tabs))
const first = (key: string, otherwise: string) => tabs.value.find((t) => t.place === key)?.to ?? otherwise
const remit = computed(() => person.value?.remits.map((r) => `${roleWords[r.role]} · ${r.unit}`).join(', ') ?? '')
/** Where one's work has several parts, the roles alone fit the masthead; their units stand on hover. */
const roles = computed(() => {
  const all = [...new Set(person.value?.remits.map((r) => roleWords[r.role]))]
  return all.length > 1 ? all.join(', ') : remit.value
})
const looks = { light: 'Light', night: 'Night', contrast: 'High contrast' } as const
const densities = { roomy: 'Roomy', dense: 'Dense' } as const

async function leave() {
  open.value = false
  await signOut()
}
</script>

<template>
  <div ref="root" class="person">
    <button :aria-expanded="open" aria-haspopup="true" @click="open = !open">
      <strong>{{ person?.name }}</strong><span :title="remit">{{ roles }}</span>
    </button>
    <div v-if="open" class="menu panel" data-panel>
      <p class="label">{{ session?.organisation }}</p>
      <fieldset>
        <legend class="label">Look</legend>
        <el-radio-group v-model="look" size="small">
          <el-radio v-for="(words, l) in looks" :key="l" :value="l">{{ words }}</el-radio>
        </el-radio-group>
      </fieldset>
      <fieldset>
        <legend class="label">Rows</legend>
        <el-radio-group v-model="density" size="small">
          <el-radio v-for="(words, d) in densities" :key="d" :value="d">{{ words }}</el-radio>
        </el-radio-group>
      </fieldset>
      <RouterLink v-for="p in places" :key="p.key" :to="first(p.key, p.to)" @click="open = false">{{
        p.label
      }}</RouterLink>
      <RouterLink to="/notices" @click="open = false">Notices to me</RouterLink>
      <button class="link" @click="((open = false), emit('keys'))">Keys</button>
      <button class="link" @click="leave">Sign out</button>
    </div>
  </div>
</template>

<style scoped>
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
</style>
