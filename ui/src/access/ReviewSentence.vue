<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import SentencePart from '@/shared/SentencePart.vue'
import ReviewScopePart from './ReviewScopePart.vue'
import ReviewStages from './ReviewStages.vue'
import { peopleWords, reviewerWords, silenceWords } from './words'

/** A review as one sentence, whose parts are edited in place. */
type Settings = Schemas['ReviewSettings']
const { settings, editable = false } = defineProps<{ settings: Settings; editable?: boolean }>()
const emit = defineEmits<{ change: [Settings] }>()
const open = ref<string | null>(null)
const put = (part: Partial<Settings>) => emit('change', { ...settings, ...part })
const recurrences: Record<string, string> = {
  '': 'Once',
  'FREQ=MONTHLY': 'Every month',
  'FREQ=MONTHLY;INTERVAL=3': 'Every quarter',
  'FREQ=MONTHLY;INTERVAL=6': 'Every half-year',
  'FREQ=YEARLY': 'Every year',
}
</script>

<template>
  <p class="sentence" :class="{ editable }">
    <SentencePart
      v-model:open="open"
      name="recurrence"
      label="How often"
      :words="recurrences[settings.recurrence] ?? `By ${settings.recurrence}`"
      :editable="editable"
    >
      <div class="part-menu" role="listbox" aria-label="How often">
        <button
          v-for="(w, r) in recurrences"
          :key="r"
          role="option"
          :aria-selected="settings.recurrence === r"
          @click="(put({ recurrence: r }), (open = null))"
        >
          {{ w }}
        </button>
      </div>
      <div class="editor">
        <label class="label" for="r-rule">Or a rule of RFC 5545</label
        ><input
          id="r-rule"
          class="box"
          :value="settings.recurrence"
          placeholder="FREQ=WEEKLY;BYDAY=MO"
          @change="put({ recurrence: ($event.target as HTMLInputElement).value.trim() })"
        />
      </div>
    </SentencePart>
    from
    <SentencePart
      v-model:open="open"
      name="start"
      label="First day"
      :words="day(settings.start)"
      :editable="editable"
      :width="220"
    >
      <div class="editor">
        <input
          class="box"
          type="date"
          aria-label="First day"
          :value="settings.start"
          @change="put({ start: ($event.target as HTMLInputElement).value })"
        />
      </div> </SentencePart
    >, ask
    <SentencePart
      v-model:open="open"
      name="reviewer"
      label="Who is asked"
      :words="
        settings.reviewer === 'named' && settings.named.length
          ? settings.named.join(', ')
          : reviewerWords[settings.reviewer]
      "
      :editable="editable"
    >
      <div class="part-menu" role="listbox" aria-label="Who is asked">
        <button
          v-for="(w, r) in reviewerWords"
          :key="r"
          role="option"
          :aria-selected="settings.reviewer === r"
          @click="put({ reviewer: r })"
        >
          {{ w }}
        </button>
      </div>
      <div v-if="settings.reviewer === 'named'" class="editor">
        <label class="label" for="r-named">Mail addresses</label
        ><input
          id="r-named"
          class="box"
          :value="settings.named.join(' ')"
          @change="put({ named: ($event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean) })"
        />
      </div>
    </SentencePart>
    (deputy:
    <SentencePart
      v-model:open="open"
      name="deputy"
      label="Deputy"
      :words="settings.deputy || 'the unit’s steward'"
      :editable="editable"
    >
      <div class="editor">
        <label class="label" for="r-deputy">Mail address; empty for the steward of the unit</label
        ><input
          id="r-deputy"
          class="box"
          :value="settings.deputy"
          @change="put({ deputy: ($event.target as HTMLInputElement).value.trim() })"
        />
      </div> </SentencePart
    >) to confirm
    <SentencePart
      v-model:open="open"
      name="people"
      label="Whose access"
      :words="
        settings.people === 'inactive'
          ? `everybody who did not sign in for ${settings.inactiveDays} days`
          : peopleWords[settings.people]
      "
      :editable="editable"
    >
      <div class="part-menu" role="listbox" aria-label="Whose access">
        <button
          v-for="(w, p) in peopleWords"
          :key="p"
          role="option"
          :aria-selected="settings.people === p"
          @click="put({ people: p })"
        >
          {{ w }}
        </button>
      </div>
      <div v-if="settings.people === 'inactive'" class="editor">
        <label class="label" for="r-inactive">Days</label
        ><input
          id="r-inactive"
          class="box"
          type="number"
          min="1"
          :value="settings.inactiveDays"
          @change="put({ inactiveDays: Number(($event.target as HTMLInputElement).value) })"
        />
      </div>
    </SentencePart>
    in
    <ReviewScopePart v-model:open="open" :settings="settings" :editable="editable" @change="put" />
    within
    <SentencePart
      v-model:open="open"
      name="days"
      label="Days"
      :words="`${settings.days} days`"
      :editable="editable"
      :width="200"
    >
      <div class="editor">
        <input
          class="box"
          type="number"
          min="1"
          aria-label="Days"
          :value="settings.days"
          @change="put({ days: Number(($event.target as HTMLInputElement).value) })"
        />
      </div> </SentencePart
    >{{ settings.reasonsRequired ? ', each with a reason' : '' }}; afterwards ask
    <ReviewStages
      v-model:open="open"
      :stages="settings.later ?? []"
      :editable="editable"
      @change="(later) => put({ later })"
    />; if nobody answers,
    <SentencePart
      v-model:open="open"
      name="silence"
      label="What silence means"
      :words="silenceWords[settings.silence]"
      :editable="editable"
      :width="240"
    >
      <div class="part-menu" role="listbox" aria-label="What silence means">
        <button
          v-for="(w, s) in silenceWords"
          :key="s"
          role="option"
          :aria-selected="settings.silence === s"
          @click="(put({ silence: s }), (open = null))"
        >
          {{ w }}
        </button>
      </div> </SentencePart
    >; then
    <SentencePart
      v-model:open="open"
      name="apply"
      label="Carrying out"
      :words="settings.applyItself ? 'carry it out' : 'wait for my confirmation'"
      :editable="editable"
      :width="280"
    >
      <div class="part-menu" role="listbox" aria-label="Carrying out">
        <button
          role="option"
          :aria-selected="settings.applyItself"
          @click="(put({ applyItself: true }), (open = null))"
        >
          carry it out
        </button>
        <button
          role="option"
          :aria-selected="!settings.applyItself"
          @click="(put({ applyItself: false }), (open = null))"
        >
          wait for my confirmation
        </button>
      </div>
      <div class="editor">
        <label class="check"
          ><input
            type="checkbox"
            :checked="settings.reasonsRequired"
            @change="put({ reasonsRequired: ($event.target as HTMLInputElement).checked })"
          />
          ask for a reason with each answer</label
        >
      </div> </SentencePart
    >.
  </p>
</template>
