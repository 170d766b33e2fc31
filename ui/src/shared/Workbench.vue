<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'

const {
  name,
  subject = false,
  side = false,
  listWidth = 430,
} = defineProps<{
  /** Under which the widths are remembered. */
  name: string
  subject?: boolean
  side?: boolean
  listWidth?: number
}>()

const widths = useLocalStorage(`widekeel.widths.${name}`, { list: listWidth, side: 300 })
const folded = useLocalStorage(`widekeel.folded.${name}`, { list: false, side: false })
const dragging = ref<'list' | 'side' | null>(null)

const root = useTemplateRef<HTMLElement>('root')
const pane = useTemplateRef<HTMLElement>('pane')
let from: HTMLElement | null = null
/**
 * An opened pane takes the focus, unless its list is being gone through by keys; a closed one gives it back to where it
 * came from.
 */
watch(
  () => subject,
  async (open) => {
    const at = document.activeElement as HTMLElement | null
    if (open) from = at && at !== document.body ? at : null
    await nextTick()
    if (open) pane.value?.focus({ preventScroll: true })
    else if (!root.value?.contains(document.activeElement))
      (from?.isConnected ? from : root.value?.querySelector<HTMLElement>('[role=grid]'))?.focus({ preventScroll: true })
  },
)
/** F6 goes from the list to what is open, and back. */
function across() {
  const list = root.value?.querySelector<HTMLElement>('[role=grid], .list a, .list button')
  if (pane.value?.contains(document.activeElement)) list?.focus()
  else pane.value?.focus()
}

const columns = computed(() => {
  if (!subject) return 'minmax(0, 1fr)'
  const list = folded.value.list ? '26px' : `${widths.value.list}px`
  return side
    ? `${list} minmax(0, 1fr) ${folded.value.side ? '26px' : `${widths.value.side}px`}`
    : `${list} minmax(0, 1fr)`
})

function drag(which: 'list' | 'side', event: PointerEvent) {
  dragging.value = which
  const start = event.clientX
  const was = widths.value[which]
  const move = (e: PointerEvent) => {
    const by = e.clientX - start
    widths.value[which] = Math.min(900, Math.max(220, was + (which === 'list' ? by : -by)))
  }
  const up = () => {
    dragging.value = null
    removeEventListener('pointermove', move)
    removeEventListener('pointerup', up)
  }
  addEventListener('pointermove', move)
  addEventListener('pointerup', up)
}

function nudge(which: 'list' | 'side', by: number) {
  widths.value[which] = Math.min(900, Math.max(220, widths.value[which] + by))
}
</script>

<template>
  <div
    ref="root"
    class="workbench"
    :class="{ dragging }"
    :style="{ gridTemplateColumns: columns }"
    @keydown.f6.prevent="across"
  >
    <section class="pane list" :class="{ folded: folded.list && subject }" aria-label="List">
      <button
        v-if="subject"
        class="fold"
        :aria-label="folded.list ? 'Unfold the list' : 'Fold the list away'"
        @click="folded.list = !folded.list"
      >
        {{ folded.list ? '›' : '‹' }}
      </button>
      <div v-show="!(folded.list && subject)" class="inner"><slot name="list" /></div>
      <div
        v-if="subject && !folded.list"
        class="grip right"
        role="separator"
        aria-label="Width of the list"
        aria-orientation="vertical"
        :aria-valuenow="widths.list"
        tabindex="0"
        @pointerdown.prevent="drag('list', $event)"
        @keydown.left="nudge('list', -20)"
        @keydown.right="nudge('list', 20)"
      />
    </section>
    <section v-if="subject" ref="pane" class="pane subject" aria-label="Subject" tabindex="-1">
      <slot name="subject" />
    </section>
    <aside v-if="subject && side" class="pane side" :class="{ folded: folded.side }" aria-label="Reasons and history">
      <button
        class="fold"
        :aria-label="folded.side ? 'Unfold the reasons' : 'Fold the reasons away'"
        @click="folded.side = !folded.side"
      >
        {{ folded.side ? '‹' : '›' }}
      </button>
      <div v-show="!folded.side" class="inner pad"><slot name="side" /></div>
      <div
        v-if="!folded.side"
        class="grip left"
        role="separator"
        aria-label="Width of the reasons"
        aria-orientation="vertical"
        :aria-valuenow="widths.side"
        tabindex="0"
        @pointerdown.prevent="drag('side', $event)"
        @keydown.left="nudge('side', 20)"
        @keydown.right="nudge('side', -20)"
      />
    </aside>
  </div>
</template>

<style scoped>
.workbench {
  display: grid;
  height: 100%;
  min-height: 0;
}
.workbench.dragging {
  user-select: none;
  cursor: col-resize;
}
.pane {
  position: relative;
  min-width: 0;
  min-height: 0;
  background: var(--sheet);
  border-right: 1px solid var(--line);
}
.pane > .inner {
  height: 100%;
  min-height: 0;
  overflow: auto;
  display: flex;
  flex-direction: column;
}
.pane.subject {
  outline: none;
  overflow: auto;
  padding: 20px 24px 40px;
}
.pane.side {
  background: var(--sheet-2);
  border-right: 0;
}
.inner.pad {
  padding: 16px;
  display: block;
}
.fold {
  position: absolute;
  z-index: 3;
  top: 50%;
  width: 16px;
  height: 34px;
  padding: 0;
  border: 1px solid var(--line-2);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink-2);
  cursor: pointer;
  opacity: 0;
}
.pane:hover > .fold,
.fold:focus-visible,
.folded > .fold {
  opacity: 1;
}
.list > .fold {
  right: -1px;
}
.side > .fold {
  left: -1px;
}
.folded > .fold {
  right: 4px;
  left: auto;
}
.grip {
  position: absolute;
  z-index: 2;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: col-resize;
}
.grip.right {
  right: -4px;
}
.grip.left {
  left: -4px;
}
@media (max-width: 900px) {
  .workbench {
    display: block;
    height: auto;
  }
  .pane > .inner {
    height: auto;
    max-height: 70vh;
  }
  .grip,
  .fold {
    display: none;
  }
}
</style>
