<script setup lang="ts">
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'
import { may } from '@/shared/session'
import { searchFor } from './span'

/** Why sign-ins failed: each code in words, with what to do; codes that nobody explained yet can be explained here. */
const { codes, days } = defineProps<{ codes: readonly Schemas['FailureCode'][]; days: string }>()
const { act, busy, problem } = useAct(['sign-in-codes'])
const form = reactive({ code: '', words: '', next: '' })
function explain(c: Schemas['FailureCode']) {
  problem.value = null
  Object.assign(form, { code: c.code, words: c.words ?? '', next: c.next ?? '' })
}
async function save() {
  const { code, words, next } = form
  if (
    await act(() =>
      take(api.PUT('/api/activity/sign-in-codes/{code}', { params: { path: { code } }, body: { words, next } })),
    )
  )
    form.code = ''
}
const forget = (code: string) =>
  act(() => take(api.DELETE('/api/activity/sign-in-codes/{code}', { params: { path: { code } } })))
</script>

<template>
  <section class="panel block" aria-label="Why they failed">
    <h2>Why they failed</h2>
    <table class="sheet">
      <tbody>
        <tr v-for="c in codes" :key="c.code">
          <td class="num">
            <RouterLink :to="searchFor(c.query, days)">{{ count(c.count) }}</RouterLink>
          </td>
          <td>
            <form v-if="form.code === c.code" class="explain" @submit.prevent="save">
              <strong>{{ c.code }}</strong>
              <el-input v-model="form.words" size="small" aria-label="What it means" placeholder="What it means" />
              <el-input v-model="form.next" size="small" aria-label="What to do" placeholder="What to do" />
              <p class="row">
                <el-button
                  size="small"
                  type="primary"
                  native-type="submit"
                  :loading="busy"
                  :disabled="!form.words.trim() || !form.next.trim()"
                  >Explain it so</el-button
                ><button class="link small" type="button" @click="form.code = ''">Leave it</button>
              </p>
            </form>
            <template v-else>
              <strong>{{ c.words ?? c.code }}</strong>
              <div class="small quiet">
                {{ c.next ?? 'Nobody has explained this code yet.' }}
                <template v-if="may('manageWatches')">
                  <button v-if="!c.words || c.own" class="link" :aria-label="`Explain ${c.code}`" @click="explain(c)">
                    {{ c.words ? 'Change' : 'Explain' }}
                  </button>
                  <button v-if="c.own" class="link" :aria-label="`Forget ${c.code}`" @click="forget(c.code)">
                    Forget
                  </button>
                </template>
              </div>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="codes.length === 0" class="quiet">Nothing failed in this time.</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </section>
</template>

<style scoped>
.explain {
  display: grid;
  gap: 6px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 0;
}
.link + .link {
  margin-left: 8px;
}
</style>
