<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'
import { useTypedText } from '@/shared/typed'
import { isLast, signWords, wordOf } from './signing'

const { batch } = defineProps<{ batch: Schemas['BatchView'] }>()
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const shown = ref(true)
const comment = useTypedText(`batch.${batch.id}.comment`)
const typed = ref('')
const { act, busy, problem } = useAct(['batches'], {
  refused: async (p) => p.code === 'stale' && client.invalidateQueries({ queryKey: ['batch', batch.id] }),
})
const toBeGone = computed(() => batch.toDestroy + batch.toTransfer)
const signable = computed(
  () => !!comment.value.trim() && (!isLast(batch) || typed.value.trim().toLowerCase() === wordOf(batch)),
)
async function sign() {
  if (!signable.value || busy.value) return
  const last = isLast(batch)
  const done = await act(() =>
    take(
      api.POST('/api/batches/{id}/sign-offs', {
        params: { path: { id: batch.id } },
        ...ifMatch(batch.revision),
        body: { comment: comment.value },
      }),
    ),
  )
  if (!done) return
  comment.value = ''
  shown.value = false
  ElMessage({
    message: last ? 'Signed. It is being carried out.' : 'Signed. The next stage is asked.',
    type: 'success',
  })
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="signWords(batch)"
    width="480"
    append-to-body
    @keydown.ctrl.enter="sign"
    @closed="emit('close')"
  >
    <p>
      {{ count(batch.opened) }} of {{ plural(batch.lines, 'item') }} {{ batch.opened === 1 ? 'was' : 'were' }} opened
      before this signature; the number stays with it.
    </p>
    <p v-if="isLast(batch)">
      This is the last stage. <strong>{{ plural(toBeGone, 'item') }}</strong> of {{ bytes(batch.bytes) }}
      {{ toBeGone === 1 ? 'leaves' : 'leave' }} the source at once and cannot be brought back.
      <template v-if="batch.toTransfer"
        >{{ count(batch.toTransfer) }} of them go into a bundle first, which is verified before anything is removed. </template
      ><template v-if="batch.toExtend">{{ count(batch.toExtend) }} are extended. </template
      ><template v-if="batch.toRefile">{{ count(batch.toRefile) }} are re-filed.</template>
    </p>
    <label class="label" for="comment">Comment</label>
    <el-input id="comment" v-model="comment" type="textarea" :rows="2" maxlength="1000" />
    <template v-if="isLast(batch)"
      ><label class="label" for="typed">Type “{{ wordOf(batch) }}” to confirm</label
      ><el-input id="typed" v-model="typed" autocomplete="off"
    /></template>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Cancel</el-button
      ><el-button :type="isLast(batch) ? 'danger' : 'primary'" :loading="busy" :disabled="!signable" @click="sign">{{
        signWords(batch)
      }}</el-button></template
    >
  </el-dialog>
</template>
