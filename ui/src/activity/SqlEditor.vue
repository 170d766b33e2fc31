<script setup lang="ts">
import { autocompletion } from '@codemirror/autocomplete'
import { sql, PostgreSQL } from '@codemirror/lang-sql'
import { Compartment, Prec } from '@codemirror/state'
import { keymap } from '@codemirror/view'
import { basicSetup, EditorView } from 'codemirror'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { Schemas } from '@/shared/api/client'

const text = defineModel<string>({ required: true })
const { catalogue } = defineProps<{ catalogue?: Schemas['StatementCatalogue']; mistake?: string }>()
const emit = defineEmits<{ run: [] }>()
const box = useTemplateRef<HTMLElement>('box')
const language = new Compartment()
let view: EditorView | undefined

/** Completes the views, their columns, and the functions that can be used. */
const offered = () =>
  sql({
    dialect: PostgreSQL,
    schema: Object.fromEntries((catalogue?.views ?? []).map((v) => [v.name, v.columns.map((c) => c.name)])),
    upperCaseKeywords: true,
  })

onMounted(() => {
  view = new EditorView({
    doc: text.value,
    parent: box.value!,
    extensions: [
      Prec.highest(keymap.of([{ key: 'Ctrl-Enter', mac: 'Cmd-Enter', run: () => (emit('run'), true) }])),
      basicSetup,
      autocompletion(),
      language.of(offered()),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': 'Statement' }),
      EditorView.updateListener.of((u) => {
        if (u.docChanged) text.value = u.state.doc.toString()
      }),
    ],
  })
})
onBeforeUnmount(() => view?.destroy())
watch(text, (now) => {
  if (view && now !== view.state.doc.toString())
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
watch(
  () => catalogue,
  () => view?.dispatch({ effects: language.reconfigure(offered()) }),
)
</script>

<template><div ref="box" class="editor" :class="{ wrong: mistake }" /></template>

<style scoped>
.editor {
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  background: var(--sheet);
}
.editor.wrong {
  border-color: var(--copper);
}
.editor :deep(.cm-editor) {
  min-height: 140px;
  max-height: 320px;
  font-size: 13.5px;
  color: var(--ink);
}
.editor :deep(.cm-gutters) {
  background: var(--sheet-2);
  color: var(--ink-3);
  border-color: var(--line);
}
.editor :deep(.cm-cursor) {
  border-left-color: var(--ink);
}
.editor :deep(.cm-activeLine),
.editor :deep(.cm-activeLineGutter) {
  background: var(--sea-wash);
}
.editor :deep(.cm-content span) {
  color: var(--ink);
}
.editor :deep(.cm-tooltip) {
  background: var(--sheet);
  border-color: var(--line-2);
  color: var(--ink);
}
</style>
