<script setup lang="ts">
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import { useTypedText } from '@/shared/typed'

/** What somebody who looks through a batch wants to know. */
const { question } = defineProps<{ question: Schemas['QuestionView'] }>()
const { act, busy, problem } = useAct(['questions'])
const answer = useTypedText(`question.${question.id}`)
const send = async () =>
  (await act(() =>
    take(
      api.POST('/api/questions/{id}/answer', { params: { path: { id: question.id } }, body: { answer: answer.value } }),
    ),
  )) && (answer.value = '')
</script>

<template>
  <li class="question">
    <div>
      <strong
        >{{ question.askedBy }} asks about
        <RouterLink v-if="may('readContent')" :to="`/content?item=${question.itemId}`">{{
          question.item
        }}</RouterLink><template v-else>{{ question.item }}</template></strong
      >
      <p>
        “{{ question.text }}” <span class="small quiet">{{ moment(question.at) }}</span>
      </p>
    </div>
    <form @submit.prevent="send">
      <el-input
        v-model="answer"
        :aria-label="`Your answer about ${question.item}`"
        placeholder="Your answer"
        maxlength="1000"
      /><el-button type="primary" native-type="submit" :loading="busy" :disabled="!answer.trim()">Answer</el-button>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </li>
</template>

<style scoped>
.question {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(260px, 400px);
  gap: 6px 20px;
  align-items: center;
  padding: 12px 18px;
  border-bottom: 1px solid var(--line);
}
p {
  margin: 2px 0 0;
}
form {
  display: flex;
  gap: 8px;
}
</style>
