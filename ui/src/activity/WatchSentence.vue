<script setup lang="ts">
// Long because the seven kinds of watch are one sentence, each part with its editor.
import { computed, ref } from 'vue'
import SentencePart from '@/shared/SentencePart.vue'
import LengthEditor from './LengthEditor.vue'
import {
  actWords,
  kindWords,
  lengthWords,
  measureWords,
  ofKind,
  perWords,
  severityWords,
  type Rule,
} from './watchWords'
import type { Settings } from './watchWords'

/** A watch as one sentence, whose parts are edited in place. */
const { settings, editable = false } = defineProps<{ settings: Settings; editable?: boolean }>()
const emit = defineEmits<{ change: [Settings] }>()
const open = ref<string | null>(null)
const rule = computed(() => settings.rule)
const set = (part: Partial<Settings>) => emit('change', { ...settings, ...part })
const put = (part: Partial<Rule>) => set({ rule: { ...settings.rule, ...part } })
const keyed = computed(() => ['count', 'unusual', 'sequence'].includes(rule.value.kind))
const measured = computed(() => ['count', 'unusual'].includes(rule.value.kind))
const measures = [
  'events',
  'sum:amount',
  ...['object', 'address', 'network', 'actor', 'target'].map((f) => `distinct:${f}`),
]
const recipients = ref('')
const number = (e: Event) => Number((e.target as HTMLInputElement).value)
const choose = (part: Partial<Rule>) => (put(part), (open.value = null))
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
      :words="kindWords[rule.kind] ?? rule.kind"
      :editable="editable"
      :width="340"
    >
      <div class="part-menu" role="listbox" aria-label="What it looks for">
        <button
          v-for="(w, k) in kindWords"
          :key="k"
          role="option"
          :aria-selected="rule.kind === k"
          @click="(set({ rule: ofKind(rule, k) }), (open = null))"
        >
          {{ w }}
        </button>
      </div> </SentencePart
    ><template v-if="rule.kind === 'count'"
      >:
      <SentencePart
        v-model:open="open"
        name="threshold"
        label="Threshold"
        :words="`${rule.threshold} or more`"
        :editable="editable"
        :width="200"
      >
        <div class="editor">
          <label class="label" for="w-threshold">At least</label
          ><input
            id="w-threshold"
            class="box"
            type="number"
            min="1"
            :value="rule.threshold"
            @change="put({ threshold: number($event) })"
          />
        </div>
      </SentencePart> </template
    ><template v-if="measured"
      >{{ ' '
      }}<SentencePart
        v-model:open="open"
        name="of"
        label="What is measured"
        :words="measureWords(rule.of)"
        :editable="editable"
        :width="280"
      >
        <div class="part-menu" role="listbox" aria-label="What is measured">
          <button
            v-for="m in measures"
            :key="m"
            role="option"
            :aria-selected="(rule.of ?? 'events') === m"
            @click="choose({ of: m })"
          >
            {{ measureWords(m) }}
          </button>
        </div>
      </SentencePart> </template
    ><template v-if="rule.kind === 'unusual'"
      >, at least
      <SentencePart
        v-model:open="open"
        name="least"
        label="The least number"
        :words="`${rule.least ?? 5}`"
        :editable="editable"
        :width="200"
      >
        <div class="editor">
          <label class="label" for="w-least">At least</label
          ><input
            id="w-least"
            class="box"
            type="number"
            min="1"
            :value="rule.least ?? 5"
            @change="put({ least: number($event) })"
          />
        </div> </SentencePart
      >, with
      <SentencePart
        v-model:open="open"
        name="sensitivity"
        label="Sensitivity"
        :words="`${rule.sensitivity ?? 'medium'} sensitivity`"
        :editable="editable"
        :width="220"
      >
        <div class="part-menu" role="listbox" aria-label="Sensitivity">
          <button
            v-for="s in ['low', 'medium', 'high']"
            :key="s"
            role="option"
            :aria-selected="rule.sensitivity === s"
            @click="choose({ sensitivity: s })"
          >
            {{ s }}
          </button>
        </div> </SentencePart
      >, </template
    ><template v-if="rule.kind === 'first'"
      >: a
      <SentencePart
        v-model:open="open"
        name="dimension"
        label="What is new"
        :words="rule.dimension ?? ''"
        :editable="editable"
        :width="220"
      >
        <div class="part-menu" role="listbox" aria-label="What is new">
          <button
            v-for="d in ['country', 'network', 'device', 'application', 'action']"
            :key="d"
            role="option"
            :aria-selected="rule.dimension === d"
            @click="choose({ dimension: d })"
          >
            {{ d }}
          </button>
        </div>
      </SentencePart>
      new to
      <SentencePart
        v-model:open="open"
        name="scope"
        label="New to whom"
        :words="
          rule.scope === 'peers'
            ? 'people of the same unit and title'
            : rule.scope === 'organisation'
              ? 'the organisation'
              : 'the person'
        "
        :editable="editable"
        :width="300"
      >
        <div class="part-menu" role="listbox" aria-label="New to whom">
          <button role="option" :aria-selected="rule.scope === 'actor'" @click="choose({ scope: 'actor' })">
            the person
          </button>
          <button role="option" :aria-selected="rule.scope === 'peers'" @click="choose({ scope: 'peers' })">
            people of the same unit and title
          </button>
          <button
            role="option"
            :aria-selected="rule.scope === 'organisation'"
            @click="choose({ scope: 'organisation' })"
          >
            the organisation
          </button>
        </div>
      </SentencePart>
      after learning for
      <SentencePart
        v-model:open="open"
        name="learn"
        label="It learns for"
        :words="lengthWords(rule.learn)"
        :editable="editable"
        :width="240"
      >
        <LengthEditor :value="rule.learn" @change="put({ learn: $event })" />
      </SentencePart> </template
    ><template v-if="rule.kind === 'journey'"
      >: faster than
      <SentencePart
        v-model:open="open"
        name="speed"
        label="Speed"
        :words="`${rule.maxKmh ?? 900} km/h`"
        :editable="editable"
        :width="200"
      >
        <div class="editor">
          <label class="label" for="w-speed">Kilometres an hour</label
          ><input
            id="w-speed"
            class="box"
            type="number"
            min="1"
            :value="rule.maxKmh ?? 900"
            @change="put({ maxKmh: number($event) })"
          />
        </div>
      </SentencePart>
      over
      <SentencePart
        v-model:open="open"
        name="distance"
        label="Distance"
        :words="`${rule.minKm ?? 500} km`"
        :editable="editable"
        :width="200"
      >
        <div class="editor">
          <label class="label" for="w-km">Kilometres</label
          ><input
            id="w-km"
            class="box"
            type="number"
            min="0"
            :value="rule.minKm ?? 500"
            @change="put({ minKm: number($event) })"
          />
        </div>
      </SentencePart> </template
    ><template v-if="rule.kind === 'silence'">
      for
      <SentencePart
        v-model:open="open"
        name="for"
        label="For how long"
        :words="lengthWords(rule.for)"
        :editable="editable"
        :width="240"
      >
        <LengthEditor :value="rule.for" @change="put({ for: $event })" />
      </SentencePart> </template
    ><template v-if="rule.kind === 'sequence'"
      >: first
      <SentencePart
        v-model:open="open"
        name="first"
        label="What comes first"
        :words="rule.first ?? '…'"
        :editable="editable"
        :width="420"
      >
        <div class="editor">
          <input
            class="box"
            aria-label="What comes first"
            :value="rule.first"
            @change="put({ first: ($event.target as HTMLInputElement).value })"
          />
        </div> </SentencePart
      >, then
      <SentencePart
        v-model:open="open"
        name="then"
        label="What follows"
        :words="rule.then ?? '…'"
        :editable="editable"
        :width="420"
      >
        <div class="editor">
          <input
            class="box"
            aria-label="What follows"
            :value="rule.then"
            @change="put({ then: ($event.target as HTMLInputElement).value })"
          />
        </div>
      </SentencePart> </template
    ><template v-if="rule.kind === 'count' || rule.kind === 'sequence'">
      within
      <SentencePart
        v-model:open="open"
        name="within"
        label="Within"
        :words="lengthWords(rule.within)"
        :editable="editable"
        :width="240"
      >
        <LengthEditor :value="rule.within" @change="put({ within: $event })" />
      </SentencePart> </template
    ><template v-if="keyed"
      >, by
      <SentencePart
        v-model:open="open"
        name="per"
        label="Whose events are taken together"
        :words="perWords[rule.per ?? 'none'] ?? ''"
        :editable="editable"
        :width="240"
      >
        <div class="part-menu" role="listbox" aria-label="Whose events are taken together">
          <button
            v-for="(w, p) in perWords"
            :key="p"
            role="option"
            :aria-selected="(rule.per ?? 'none') === p"
            @click="choose({ per: p })"
          >
            {{ w }}
          </button>
        </div>
      </SentencePart></template
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
