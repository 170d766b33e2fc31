<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'

/** What a review says to those it asks, when it reminds them, and who is informed of its end. */
type Settings = Schemas['ReviewSettings']
const { settings } = defineProps<{ settings: Settings }>()
const emit = defineEmits<{ change: [Settings] }>()
const put = (part: Partial<Settings>) => emit('change', { ...settings, ...part })
const words = (text: string) => text.split(/[\s,;]+/).filter(Boolean)
const textOf = (event: Event) => (event.target as HTMLInputElement).value
const reminders = computed(() => (settings.reminders ?? [3]).join(', '))
const summary = computed(
  () =>
    `${settings.words ? 'with words of your own; ' : ''}${
      reminders.value ? `a reminder ${reminders.value} days before the end` : 'no reminder'
    }; ${settings.informed?.length ? `${settings.informed.join(', ')} informed of the end` : 'nobody is informed of the end'}`,
)
</script>

<template>
  <details>
    <summary class="small">Messages: {{ summary }}</summary>
    <div class="messages">
      <label for="review-words">Own words, for the message</label>
      <el-input
        id="review-words"
        :model-value="settings.words"
        type="textarea"
        :rows="2"
        @update:model-value="(text: string) => put({ words: text })"
      />
      <label for="review-reminders">Reminders, days before the end</label>
      <input
        id="review-reminders"
        class="box"
        :value="reminders"
        placeholder="none"
        @change="put({ reminders: words(textOf($event)).map(Number).filter(Number.isInteger) })"
      />
      <label for="review-reminder-words">Own words, for reminders</label>
      <el-input
        id="review-reminder-words"
        :model-value="settings.reminderWords ?? ''"
        size="small"
        placeholder="those of the message"
        @update:model-value="(text: string) => put({ reminderWords: text })"
      />
      <label for="review-informed">Informed of the end of a round</label>
      <input
        id="review-informed"
        class="box"
        :value="(settings.informed ?? []).join(', ')"
        placeholder="mail addresses"
        @change="put({ informed: words(textOf($event)) })"
      />
    </div>
  </details>
</template>

<style scoped>
.messages {
  display: grid;
  grid-template-columns: 200px minmax(0, 1fr);
  gap: 6px 12px;
  align-items: center;
  font-size: 13.5px;
  padding-top: 8px;
}
summary {
  cursor: pointer;
}
</style>
