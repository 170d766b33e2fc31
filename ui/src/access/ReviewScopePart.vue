<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import SentencePart from '@/shared/SentencePart.vue'
import { setWords } from './words'

/** What a review asks about: groups, places, applications, standing sets, roles and links. */
type Settings = Schemas['ReviewSettings']
const { settings, editable } = defineProps<{ settings: Settings; editable: boolean }>()
const open = defineModel<string | null>('open', { required: true })
const emit = defineEmits<{ change: [part: Partial<Settings>] }>()
const entries = useQuery({ queryKey: ['entries', 'all'], queryFn: () => take(api.GET('/api/access/entries')) })
const ofKind = (...kinds: string[]) => (entries.data.value ?? []).filter((e) => kinds.includes(e.kind))
const lists = computed(() => [
  { name: 'Groups', part: 'groups' as const, entries: ofKind('group') },
  { name: 'Places', part: 'resources' as const, entries: ofKind('library', 'share', 'mailbox', 'application') },
  { name: 'Applications with consents', part: 'applications' as const, entries: ofKind('consent') },
])
const nameOf = (id: string) => entries.data.value?.find((e) => e.id === id)?.name ?? id
const words = computed(() => {
  const all = [
    ...(settings.sets ?? []).map((s) => setWords[s]),
    ...[...settings.groups, ...settings.resources, ...(settings.applications ?? [])].map(nameOf),
  ]
  const what =
    all.length === 0 ? 'nothing yet' : all.length <= 3 ? all.join(', ') : `these ${all.length} groups and places`
  const roles = settings.roles?.length ? ` (${settings.roles.join(', ')} only)` : ''
  return what + roles + (settings.links ? ', and their links' : '')
})
</script>

<template>
  <SentencePart
    v-model:open="open"
    name="about"
    label="Groups and places"
    :words="words"
    :editable="editable"
    :width="420"
  >
    <div class="editor">
      <template v-for="l in lists" :key="l.part">
        <span class="label">{{ l.name }}</span>
        <el-select
          :model-value="[...(settings[l.part] ?? [])]"
          multiple
          filterable
          collapse-tags
          :max-collapse-tags="4"
          :aria-label="l.name"
          @change="(ids: string[]) => emit('change', { [l.part]: ids })"
          ><el-option v-for="g in l.entries" :key="g.id" :value="g.id" :label="g.name"
        /></el-select>
      </template>
      <span class="label">As they are at the start of each round</span>
      <el-select
        :model-value="[...(settings.sets ?? [])]"
        multiple
        aria-label="Standing sets"
        @change="(sets: Schemas['ReviewSet'][]) => emit('change', { sets })"
        ><el-option v-for="(w, s) in setWords" :key="s" :value="s" :label="w"
      /></el-select>
      <label class="label" for="r-roles">Only these roles on places; empty for all</label>
      <input
        id="r-roles"
        class="box"
        placeholder="owner editor"
        :value="(settings.roles ?? []).join(' ')"
        @change="emit('change', { roles: ($event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean) })"
      />
      <label class="check"
        ><input
          type="checkbox"
          :checked="settings.links"
          @change="emit('change', { links: ($event.target as HTMLInputElement).checked })"
        />
        ask about each link of the places once, instead of about everybody it lets in</label
      >
    </div>
  </SentencePart>
</template>
