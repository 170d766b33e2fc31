<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { may } from '@/shared/session'

/** The search for owners of what nobody answers for: its rule as one sentence, and who was asked. */
const owners = useQuery({ queryKey: ['owners'], queryFn: () => take(api.GET('/api/access/owners')) })
const rule = reactive({ on: false, many: 2, weeks: 2, times: 3, allow: '', block: '', words: '' })
const editing = ref(false)
const asked = ref<Schemas['OwnersAsked'] | null>(null)
const { act, busy, problem } = useAct(['directory'])
watch(
  () => owners.data.value?.rule,
  (r) => r && !editing.value && Object.assign(rule, { ...r, allow: r.allow.join(', '), block: r.block.join(', ') }),
  { immediate: true },
)
const list = (text: string) =>
  text
    .split(',')
    .map((t) => t.trim())
    .filter(Boolean)
async function save(on = rule.on) {
  const body = { ...rule, on, allow: list(rule.allow), block: list(rule.block) }
  if (await act(() => take(api.PUT('/api/access/owners', { body })))) editing.value = false
}
const ask = () => act(async () => (asked.value = await take(api.POST('/api/access/owners/asking'))))
const allow = (allowed: boolean) => act(() => take(api.PUT('/api/access/owners/reviews', { body: { may: allowed } })))
const answers = { open: 'no answer yet', yes: 'yes', no: 'no' }
const sentence = (r: Schemas['OwnerRule']) =>
  `Ask the ${plural(r.many, 'most active member')}, wait ${plural(r.weeks, 'week')} for an answer, and ask others up to ` +
  `${plural(r.times, 'time')}; then the steward of their unit answers for it.` +
  (r.allow.length ? ` Only ${r.allow.join(', ')}.` : '') +
  (r.block.length ? ` Nobody of ${r.block.join(', ')}.` : '')
</script>

<template>
  <section v-if="owners.data.value" class="panel block owners" aria-label="Looking for owners">
    <p>
      <strong>{{ owners.data.value.rule.on ? 'Every morning:' : 'Only when you ask for it:' }}</strong>
      {{ sentence(owners.data.value.rule) }}
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p v-if="asked" role="status" class="small">
      {{
        asked.asked + asked.toStewards
          ? `${plural(asked.asked, 'person', 'people')} asked, ${asked.toStewards} given to stewards.`
          : 'Nobody new is to be asked today: those who were asked still have time, or nobody is left.'
      }}
    </p>
    <p v-if="may('manageAccess') && !editing" class="row">
      <el-button size="small" type="primary" :loading="busy" @click="ask">Ask now</el-button>
      <el-button size="small" :loading="busy" @click="save(!owners.data.value.rule.on)">{{
        owners.data.value.rule.on ? 'Ask only when told to' : 'Ask every morning'
      }}</el-button>
      <button class="link" @click="editing = true">Change the rule</button>
    </p>
    <p v-if="may('manageAccess')" class="small">
      {{
        owners.data.value.mayReview
          ? 'Owners may start reviews of who reaches what they own.'
          : 'Owners may not start reviews themselves.'
      }}
      <button class="link" :disabled="busy" @click="allow(!owners.data.value.mayReview)">
        {{ owners.data.value.mayReview ? 'Allow it no longer' : 'Allow it' }}
      </button>
    </p>
    <form v-if="editing" class="fields" @submit.prevent="save()">
      <label for="o-many">How many are asked at once</label>
      <el-input-number id="o-many" v-model="rule.many" :min="1" :max="5" size="small" />
      <label for="o-weeks">Weeks to wait for an answer</label>
      <el-input-number id="o-weeks" v-model="rule.weeks" :min="1" :max="26" size="small" />
      <label for="o-times">How often, before the steward</label>
      <el-input-number id="o-times" v-model="rule.times" :min="1" :max="12" size="small" />
      <label for="o-allow">Only these people or units</label>
      <el-input id="o-allow" v-model="rule.allow" size="small" placeholder="everybody" />
      <label for="o-block">Nobody of these</label>
      <el-input id="o-block" v-model="rule.block" size="small" placeholder="addresses or units, with commas" />
      <label for="o-words">Your own words in the message</label>
      <el-input id="o-words" v-model="rule.words" type="textarea" :rows="2" maxlength="2000" />
      <span></span>
      <p class="row">
        <el-button size="small" type="primary" native-type="submit" :loading="busy">Keep the rule</el-button>
        <button type="button" class="link" @click="editing = false">Leave it</button>
      </p>
    </form>
    <details v-for="t in owners.data.value.things.filter((x) => x.asked.length)" :key="t.id" class="small">
      <summary>
        <strong>{{ t.name }}</strong>: {{ t.owner ? `${t.owner} answers for it` : 'nobody yet' }},
        {{ t.asked.length }} asked
      </summary>
      <ul>
        <li v-for="a in t.asked" :key="a.person + a.round">
          {{ day(a.askedOn) }}, {{ a.personName }} ({{ a.round }}): {{ answers[a.answer] }}
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
.owners {
  display: grid;
  gap: 8px;
}
p {
  margin: 0;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.row .el-button + .el-button {
  margin-left: 0;
}
.fields {
  display: grid;
  grid-template-columns: 220px minmax(0, 420px);
  gap: 6px 12px;
  align-items: center;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
summary {
  cursor: pointer;
}
</style>
