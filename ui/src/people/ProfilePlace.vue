<script setup lang="ts">
import { gathered } from '@/shared/parts'
import { density, look } from '@/shared/look'
import { person } from '@/shared/session'
import { roleWords } from '@/shared/words'
import ChoosePassword from './ChoosePassword.vue'
import OneTimeCodes from './OneTimeCodes.vue'
import SessionsSection from './SessionsSection.vue'

/** One's own page: who one is here, how it looks, and what the parts add. */
const sections = gathered((p) => p.profile)
const looks = { light: 'Light', night: 'Night', contrast: 'High contrast' } as const
const densities = { roomy: 'Roomy', dense: 'Dense' } as const
</script>

<template>
  <main v-if="person" class="page">
    <header><h1>My profile</h1></header>
    <section class="panel block" aria-label="Account">
      <h2>{{ person.name }}</h2>
      <dl class="kv">
        <dt>Mail address</dt>
        <dd>{{ person.mail }}</dd>
        <template v-for="r in person.remits" :key="`${r.role}-${r.unitId}`">
          <dt>{{ roleWords[r.role] }}</dt>
          <dd>{{ r.unit }} and everything beneath it</dd>
        </template>
      </dl>
      <p class="small quiet">An administrator changes roles.</p>
    </section>
    <section class="panel block" aria-label="Password"><ChoosePassword /></section>
    <OneTimeCodes />
    <section class="panel block" aria-label="Look">
      <h2>Look</h2>
      <dl class="kv">
        <dt id="p-look">Colours</dt>
        <dd>
          <el-radio-group v-model="look" aria-labelledby="p-look">
            <el-radio v-for="(words, l) in looks" :key="l" :value="l">{{ words }}</el-radio>
          </el-radio-group>
        </dd>
        <dt id="p-rows">Rows of tables</dt>
        <dd>
          <el-radio-group v-model="density" aria-labelledby="p-rows">
            <el-radio v-for="(words, d) in densities" :key="d" :value="d">{{ words }}</el-radio>
          </el-radio-group>
        </dd>
      </dl>
      <p class="small quiet">Both are kept in this browser.</p>
    </section>
    <SessionsSection />
    <component :is="s.component" v-for="(s, i) in sections" :key="i" />
  </main>
</template>

<style scoped>
.page {
  max-width: 1080px;
  margin: 0 auto;
  padding: 18px 20px 40px;
  display: grid;
  gap: 16px;
}
h1 {
  font-size: 25px;
}
.kv {
  align-items: center;
}
</style>
