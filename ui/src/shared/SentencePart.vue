<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import { focusFirst } from './focus'

/**
 * One underlined part of a sentence: shows its words, and opens what edits them. One part of a sentence is open at a
 * time.
 */
const {
  name,
  label,
  words,
  was = null,
  editable = false,
  width = 300,
} = defineProps<{
  name: string
  /** What is edited, for those who do not see the sentence. */
  label: string
  words: string
  /** What stands there now, where it differs. */
  was?: string | null
  editable?: boolean
  width?: number
}>()
const open = defineModel<string | null>('open', { required: true })
const shown = computed(() => open.value === name)
const part = useTemplateRef<HTMLElement>('part')
const editor = useTemplateRef<HTMLElement>('editor')
// A press outside folds the editor; one on another part opens that one by itself, and lists of a select lie elsewhere on the page.
onClickOutside(editor, () => shown.value && (open.value = null), { ignore: [part, '.el-popper'] })
watch(shown, async (now, before) => {
  await nextTick()
  if (now) focusFirst(editor.value)
  // Done: back to the part, unless the focus went somewhere else by itself.
  else if (before && (document.activeElement === document.body || editor.value?.contains(document.activeElement)))
    part.value?.focus()
})
</script>

<template>
  <s v-if="was" class="was">{{ was }}</s>{{ was ? ' ' : ''
  }}<el-popover
    role="dialog"
    :aria-label="label"
    :visible="shown"
    placement="bottom-start"
    :width="width"
    trigger="click"
  >
    <template #reference>
      <button
        ref="part"
        class="part"
        :class="{ changed: was }"
        :disabled="!editable"
        :data-part="name"
        :aria-expanded="shown"
        @click="open = shown ? null : name"
      >
        {{ words }}
      </button>
    </template>
    <div ref="editor" tabindex="-1" @keydown.esc.stop="((open = null), part?.focus())"><slot /></div>
  </el-popover>
</template>

<style>
.sentence {
  font: 400 19px/1.65 var(--serif);
  margin: 0;
  padding-left: 18px;
  border-left: 3px solid var(--line-2);
  text-wrap: pretty;
}
.sentence.editable {
  border-left-color: var(--copper);
}
.sentence .part {
  font: 600 19px/1.3 var(--serif);
  color: var(--ink);
  background: none;
  border: 0;
  border-bottom: 1.5px solid var(--ink-3);
  padding: 0 1px;
  cursor: pointer;
  text-align: left;
}
.sentence .part:disabled {
  cursor: default;
  border-bottom-color: transparent;
  color: var(--ink);
}
.sentence .part.changed {
  color: var(--copper);
  background: var(--copper-wash);
  border-bottom-color: var(--copper);
}
.sentence .was {
  color: var(--ink-3);
}
.editor {
  display: grid;
  gap: 8px;
}
.editor .row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.editor .box {
  min-width: 0;
  flex: 1;
}
.editor .check {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--ink);
}
.editor .end {
  text-align: right;
}
.part-menu {
  display: grid;
  margin: -6px -6px 6px;
  max-height: 300px;
  overflow: auto;
}
.part-menu button {
  text-align: left;
  background: none;
  border: 0;
  padding: 6px 8px;
  color: var(--ink);
  cursor: pointer;
  border-radius: var(--radius);
}
.part-menu button:hover,
.part-menu button:focus-visible {
  background: var(--sheet-2);
}
.part-menu button[aria-selected='true'] {
  font-weight: 600;
  background: var(--sea-wash);
}
</style>
