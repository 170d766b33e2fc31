<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Problem } from '@/shared/api/client'
import { useTypedText } from '@/shared/typed'

/** The last step before something takes effect: what it does, why, and where it cannot be undone a word to be typed. */
const {
  title,
  says,
  danger = false,
  busy = false,
  ready: seen = true,
  problem = null,
  word = null,
  label = 'Why, for the history',
  width = 480,
} = defineProps<{
  title: string
  /** On the button. */
  says: string
  danger?: boolean
  busy?: boolean
  /** The consequences are on screen; before that nothing is done. */
  ready?: boolean
  problem?: Problem | null
  word?: string | null
  label?: string
  /** In pixels. */
  width?: number
}>()
const emit = defineEmits<{ go: [why: string]; close: [] }>()
const shown = ref(true)
const why = useTypedText(`why.${useRoute()?.fullPath}.${title}`)
const typed = ref('')
let gone = false
/** Sent: what was typed is kept until it is known that it was taken. The place then takes the dialog away. */
function go() {
  gone = true
  emit('go', why.value)
}
onBeforeUnmount(() => {
  if (gone && !problem) why.value = ''
})
const complete = computed(() => seen && why.value.trim() !== '' && (word === null || typed.value.trim() === word))
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="title"
    :width="width"
    :top="width > 480 ? '6vh' : undefined"
    append-to-body
    @closed="emit('close')"
  >
    <slot />
    <label class="label" for="why">{{ label }}</label>
    <el-input id="why" v-model="why" type="textarea" :rows="3" maxlength="1000" />
    <template v-if="word"
      ><label class="label" for="word">Type “{{ word }}” to go on</label
      ><el-input id="word" v-model="typed" autocomplete="off"
    /></template>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Cancel</el-button
      ><el-button :type="danger ? 'danger' : 'primary'" :disabled="!complete" :loading="busy" @click="go">{{
        says
      }}</el-button></template
    >
  </el-dialog>
</template>
