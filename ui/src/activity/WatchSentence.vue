<script setup lang="ts">
import { computed, ref } from 'vue'
import SentencePart from '@/shared/SentencePart.vue'
import WatchPartEditor from './WatchPartEditor.vue'
import { useWatchKinds } from './watchKinds'
import { actWords, kindOf, ofKind, partWords, piecesOf, severityWords, type Kind, type Rule } from './watchWords'
import type { Settings } from './watchWords'

/** A watch as one sentence, whose parts are edited in place. */
const { settings, editable = false } = defineProps<{ settings: Settings; editable?: boolean }>()
const emit = defineEmits<{ change: [Settings] }>()
const open = ref<string | null>(null)
const rule = computed(() => settings.rule)
const set = (part: Partial<Settings>) => emit('change', { ...settings, ...part })
const put = (part: Partial<Rule>) => set({ rule: { ...settings.rule, ...part } })
const kinds = useWatchKinds()
const kind = computed(() => kindOf(kinds.value, rule.value))
/** Between the words of the kind and the events that count: everything that this kind has to say. */
const pieces = computed(() => (kind.value?.parts.length ? piecesOf(kind.value) : []))
const recipients = ref('')
const number = (e: Event) => Number((e.target as HTMLInputElement).value)
const begin = (k: Kind) => (set({ rule: ofKind(rule.value, k) }), (open.value = null))
</script>

<template>
  <p class="sentence" :class="{ editable }">
    Raise an alert of
    <SentencePart
      v-model:open="open"
      name="severity"
      label="Severity"
      :words="`${severityWords[settings.severity]} severity`"
      :editable="editable"
      :width="200"
    >
      <div class="part-menu" role="listbox" aria-label="Severity">
        <button
          v-for="(w, s) in severityWords"
          :key="s"
          role="option"
          :aria-selected="settings.severity === s"
          @click="(set({ severity: s }), (open = null))"
        >
          {{ w }}
        </button>
      </div>
    </SentencePart>
    when
    <SentencePart
      v-model:open="open"
      name="kind"
      label="What it looks for"
      :words="kind?.words ?? rule.kind"
      :editable="editable"
      :width="340"
    >
      <div class="part-menu" role="listbox" aria-label="What it looks for">
        <button v-for="k in kinds" :key="k.code" role="option" :aria-selected="kind?.code === k.code" @click="begin(k)">
          {{ k.words }}
        </button>
      </div> </SentencePart
    ><template v-for="(p, i) in pieces" :key="`${kind?.code} ${i}`"
      >{{ i === 0 ? ' – ' : '' }}<template v-if="typeof p === 'string'">{{ p }}</template
      ><SentencePart
        v-else
        v-model:open="open"
        :name="p.name"
        :label="p.label"
        :words="partWords(p, rule)"
        :editable="editable"
        :width="p.editor === 'query' ? 420 : 300"
      >
        <WatchPartEditor :part="p" :rule="rule" @change="put($event)" @done="open = null" /> </SentencePart></template
    >, among
    <SentencePart
      v-model:open="open"
      name="where"
      label="Which events count"
      :words="rule.where ? `events where ${rule.where}` : 'all events'"
      :editable="editable"
      :width="460"
    >
      <div class="editor">
        <label class="label" for="w-where">Only events where</label
        ><input
          id="w-where"
          class="box"
          :value="rule.where ?? ''"
          placeholder="action = file.delete"
          @change="put({ where: ($event.target as HTMLInputElement).value || null })"
        />
      </div>
    </SentencePart>
    except
    <SentencePart
      v-model:open="open"
      name="except"
      label="Which events do not count"
      :words="rule.except || 'none'"
      :editable="editable"
      :width="460"
    >
      <div class="editor">
        <label class="label" for="w-except">Not those where</label
        ><input
          id="w-except"
          class="box"
          :value="rule.except ?? ''"
          placeholder="actor = backup@tarnholm.example"
          @change="put({ except: ($event.target as HTMLInputElement).value || null })"
        />
      </div> </SentencePart
    >. Inform
    <SentencePart
      v-model:open="open"
      name="recipients"
      label="Whom it informs"
      :words="settings.recipients?.length ? settings.recipients.join(', ') : 'nobody'"
      :editable="editable"
      :width="360"
    >
      <div class="editor">
        <label class="label" for="w-recipients">Mail addresses, with spaces between</label>
        <input
          id="w-recipients"
          class="box"
          :value="recipients || settings.recipients?.join(' ')"
          @change="
            ((recipients = ($event.target as HTMLInputElement).value),
            set({ recipients: recipients.split(/[\s,;]+/).filter(Boolean) }))
          "
        />
      </div>
    </SentencePart>
    by at most
    <SentencePart
      v-model:open="open"
      name="cap"
      label="Messages a day"
      :words="`${settings.dailyCap} messages a day`"
      :editable="editable"
      :width="220"
    >
      <div class="editor">
        <label class="label" for="w-cap">Messages a day</label
        ><input
          id="w-cap"
          class="box"
          type="number"
          min="0"
          :value="settings.dailyCap"
          @change="set({ dailyCap: number($event) })"
        />
      </div> </SentencePart
    >, and
    <SentencePart
      v-model:open="open"
      name="act"
      label="What it does in the directory"
      :words="actWords[settings.act ?? ''] ?? ''"
      :editable="editable"
      :width="320"
    >
      <div class="part-menu" role="listbox" aria-label="What it does in the directory">
        <button
          v-for="(w, a) in actWords"
          :key="a"
          role="option"
          :aria-selected="(settings.act ?? '') === a"
          @click="(set({ act: a || null }), (open = null))"
        >
          {{ w }}
        </button>
      </div> </SentencePart
    >.
  </p>
</template>
