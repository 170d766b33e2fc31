<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { count } from './format'
import QueryMistake from './QueryMistake.vue'

const query = defineModel<string>({ required: true })
/**
 * What is typed is a query, or plain words that stand for one: then it is asked. A mistake is shown at its place and
 * asks nothing.
 */
const typed = ref(query.value)
const reading = ref<Schemas['QueryReading'] | null>(null)
const offers = ref<Schemas['Completions'] | null>(null)
const chosen = ref(-1)
const focused = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')
const mistake = computed(() => (reading.value?.mistake && typed.value.trim() ? reading.value.mistake : null))
/** Still being typed: what is wrong is only that it ends. That is told quietly. */
const unfinished = computed(() => !!mistake.value && mistake.value.at >= typed.value.trimEnd().length)
const shown = computed(() => (focused.value ? (offers.value?.offers ?? []) : []))

watch(query, (q) => {
  if (q !== typed.value.trim() && q !== reading.value?.text) typed.value = q
})

/** Answers may come back in another order than they were asked for. */
let asked = 0
async function read() {
  const mine = ++asked
  const text = typed.value
  const answer = await take(api.POST('/api/query/reading', { body: { text } })).catch(() => null)
  if (mine !== asked || !answer) return
  reading.value = answer
  if (!answer.mistake) query.value = text.trim()
}
async function complete() {
  const input = field.value
  if (!input || !focused.value) return
  const [text, at] = [typed.value, input.selectionStart ?? typed.value.length]
  const answer = await take(api.POST('/api/query/completions', { body: { text, at } })).catch(() => null)
  if (text === typed.value) {
    offers.value = answer
    chosen.value = -1
  }
}
const later = useDebounceFn(() => Promise.all([read(), complete()]), 220)
function change() {
  offers.value = null
  void later()
}
async function accept(offer: Schemas['Completion']) {
  const { start, length } = offers.value!
  const after = typed.value.slice(start + length)
  const put = `${offer.text} `
  typed.value = typed.value.slice(0, start) + put + after.trimStart()
  offers.value = null
  await nextTick()
  field.value?.focus()
  field.value?.setSelectionRange(start + put.length, start + put.length)
  void later()
}
function move(e: KeyboardEvent, by: number) {
  if (!shown.value.length) return
  e.preventDefault()
  chosen.value = (chosen.value + by + shown.value.length + (chosen.value < 0 && by < 0 ? 1 : 0)) % shown.value.length
}
function enter(e: KeyboardEvent) {
  const offer = shown.value[chosen.value]
  if (offer) {
    e.preventDefault()
    void accept(offer)
  } else {
    offers.value = null
    void read()
  }
}
function escape(e: KeyboardEvent) {
  if (!shown.value.length) return
  e.stopPropagation()
  offers.value = null
}
function clear() {
  typed.value = ''
  void read()
  field.value?.focus()
}
function goTo() {
  field.value?.focus()
  field.value?.setSelectionRange(mistake.value!.at, mistake.value!.at + mistake.value!.length)
}
if (typed.value) void read()
defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <div class="field">
    <div class="box" :class="{ wrong: mistake && !unfinished }">
      <svg width="15" height="15" viewBox="0 0 16 16" aria-hidden="true">
        <circle cx="6.800" cy="6.800" r="4.800" fill="none" stroke="currentColor" stroke-width="1.500" />
        <path d="m10.500 10.500 4 4" stroke="currentColor" stroke-width="1.500" />
      </svg>
      <input
        ref="field"
        v-model="typed"
        type="text"
        spellcheck="false"
        autocomplete="off"
        placeholder="Words, or a query: title = pier and created > 2025"
        aria-label="Search"
        role="combobox"
        aria-autocomplete="list"
        aria-haspopup="listbox"
        :aria-expanded="shown.length > 0"
        aria-controls="offers"
        :aria-activedescendant="chosen >= 0 ? `offer-${chosen}` : undefined"
        :aria-invalid="!!mistake"
        aria-describedby="mistake"
        @input="change"
        @focus="focused = true"
        @blur="focused = false"
        @keydown.down="move($event, 1)"
        @keydown.up="move($event, -1)"
        @keydown.enter="enter"
        @keydown.tab="chosen >= 0 && enter($event)"
        @keydown.esc="escape"
      />
      <button v-if="typed" type="button" class="link small" aria-label="Clear the search" @click="clear">Clear</button>
    </div>
    <ul v-if="shown.length" id="offers" class="offers panel" role="listbox" aria-label="Completions">
      <li
        v-for="(offer, i) in shown"
        :id="`offer-${i}`"
        :key="offer.text"
        role="option"
        :aria-selected="i === chosen"
        @mousedown.prevent="accept(offer)"
      >
        <span>{{ offer.label }}</span><span v-if="offer.items !== null" class="quiet small">{{
          count(offer.items)
        }}</span>
      </li>
    </ul>
    <p v-if="mistake && unfinished" id="mistake" class="small quiet asked">
      {{ mistake.sentence.replace(/^At character \d+: expected/, 'Next:').replace(', but the query ends', '') }} The
      list shows what was asked before.
    </p>
    <QueryMistake v-else-if="mistake" id="mistake" :text="typed" :mistake="mistake" @go="goTo" />
    <p v-else-if="reading && reading.text !== typed.trim() && typed.trim()" class="small quiet asked">
      asks for <code>{{ reading.text }}</code>
    </p>
  </div>
</template>

<style scoped>
.field {
  position: relative;
  flex: 1 1 420px;
  min-width: 260px;
}
.box {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 34px;
  padding: 0 10px;
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink-3);
}
.box:focus-within {
  border-color: var(--sea);
  outline: 1px solid var(--sea);
}
.box.wrong {
  border-color: var(--copper);
  outline-color: var(--copper);
}
input {
  flex: 1;
  min-width: 0;
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink);
  outline: none;
}
input::placeholder {
  color: var(--ink-3);
}
.offers {
  position: absolute;
  z-index: 20;
  top: 38px;
  left: 0;
  min-width: 280px;
  max-width: 100%;
  max-height: 260px;
  overflow: auto;
  margin: 0;
  padding: 4px;
  list-style: none;
  box-shadow: var(--shadow);
}
.offers li {
  display: flex;
  justify-content: space-between;
  gap: 18px;
  padding: 4px 8px;
  border-radius: var(--radius);
  cursor: pointer;
  color: var(--ink);
}
.offers li:hover,
.offers li[aria-selected='true'] {
  background: var(--sea-wash);
}
.asked {
  margin: 4px 0 0;
}
code {
  font-size: 12.5px;
}
</style>
