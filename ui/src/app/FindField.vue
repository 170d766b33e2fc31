<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced, useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, take } from '@/shared/api/client'
import { parts, useShown } from '@/shared/parts'
import { signOut } from '@/shared/session'

const router = useRouter()
const field = useTemplateRef<HTMLInputElement>('field')
const typed = ref('')
const words = refDebounced(typed, 150)
const open = ref(false)
const at = ref(0)

const { data: found } = useQuery({
  queryKey: computed(() => ['find', words.value]),
  queryFn: () => take(api.GET('/api/find', { params: { query: { q: words.value } } })),
  enabled: computed(() => words.value.trim().length > 1),
})

interface Hit {
  title: string
  note: string
  run: () => unknown
}
const offered = useShown(parts().flatMap((p) => p.commands ?? []))
const commands = computed<Hit[]>(() => [
  ...offered.value.map(({ title, note, to, run }) => ({ title, note, run: run ?? (() => router.push(to!)) })),
  { title: 'Sign out', note: 'Session', run: signOut },
])
const hits = computed<Hit[]>(() => {
  const asked = typed.value.trim().toLowerCase()
  const fitting = commands.value.filter((c) => c.title.toLowerCase().includes(asked))
  const things =
    asked.length > 1
      ? (found.value ?? []).map((h) => ({ title: h.title, note: h.note, run: () => router.push(h.link) }))
      : []
  return [...things, ...fitting].slice(0, 18)
})
watch(hits, () => (at.value = 0))

useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  const typing = (e.target as HTMLElement).closest('input, textarea, select')
  if ((e.key === '/' && !typing) || (e.key === 'k' && (e.ctrlKey || e.metaKey))) {
    e.preventDefault()
    field.value?.focus()
  }
})
function choose(hit: Hit | undefined) {
  if (!hit) return
  open.value = false
  typed.value = ''
  field.value?.blur()
  void hit.run()
}
</script>

<template>
  <div
    class="find"
    @focusout="!($event.currentTarget as HTMLElement).contains($event.relatedTarget as Node) && (open = false)"
  >
    <input
      ref="field"
      v-model="typed"
      type="search"
      placeholder="Find or do anything"
      aria-label="Find or do anything"
      role="combobox"
      aria-controls="found"
      :aria-expanded="open"
      aria-autocomplete="list"
      :aria-activedescendant="open && hits.length ? `hit-${at}` : undefined"
      @focus="open = true"
      @input="open = true"
      @keydown.down.prevent="at = Math.min(hits.length - 1, at + 1)"
      @keydown.up.prevent="at = Math.max(0, at - 1)"
      @keydown.enter.prevent="choose(hits[at])"
      @keydown.esc="((open = false), field?.blur())"
    />
    <kbd v-if="!open">/</kbd>
    <ul v-show="open" id="found" class="panel" role="listbox" aria-label="Found">
      <li
        v-for="(hit, i) in hits"
        :id="`hit-${i}`"
        :key="i"
        role="option"
        :aria-selected="i === at"
        @pointerdown.prevent="choose(hit)"
        @pointerenter="at = i"
      >
        <span>{{ hit.title }}</span><small>{{ hit.note }}</small>
      </li>
      <li v-if="hits.length === 0" class="none" role="option" aria-selected="false">Nothing found</li>
    </ul>
  </div>
</template>

<style scoped>
.find {
  position: relative;
  margin-left: auto;
  width: 250px;
  min-width: 150px;
  flex: 0 1 250px;
}
input {
  width: 100%;
  height: 32px;
  border: 1px solid #5d7f80;
  border-radius: var(--radius);
  background: transparent;
  color: var(--on-deep);
  font: inherit;
  padding: 0 10px;
}
input::placeholder {
  color: #c9d6d1;
  opacity: 1;
}
kbd {
  position: absolute;
  right: 8px;
  top: 6px;
}
ul {
  position: absolute;
  right: 0;
  top: 38px;
  width: 430px;
  max-height: 70vh;
  overflow: auto;
  margin: 0;
  padding: 6px;
  list-style: none;
  box-shadow: var(--shadow);
  color: var(--ink);
}
li {
  display: grid;
  padding: 6px 10px;
  border-radius: var(--radius);
  cursor: pointer;
  line-height: 1.3;
}
li[aria-selected='true'] {
  background: var(--sea-wash);
}
li span,
li small {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
small {
  color: var(--ink-2);
  font-size: 12px;
}
.none {
  color: var(--ink-2);
}
</style>
