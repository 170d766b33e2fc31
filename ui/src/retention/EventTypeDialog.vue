<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { keepTyped } from '@/shared/typed'

const { type } = defineProps<{ type: Schemas['TriggerEventTypeView'] | null }>()
const emit = defineEmits<{ close: [] }>()
const form = reactive({ name: type?.name ?? '', title: type?.title ?? '', description: type?.description ?? '' })
const saved = keepTyped(`event-type.${type?.id ?? 'new'}`, form)
const shown = ref(true)
const { act, busy, problem } = useAct(['schedule'])
async function save() {
  if (
    await act(() =>
      type
        ? take(
            api.PUT('/api/trigger-event-types/{id}', {
              params: { path: { id: type.id } },
              ...ifMatch(type.revision),
              body: form,
            }),
          )
        : take(api.POST('/api/trigger-event-types', { body: form })),
    )
  )
    saved()
  shown.value = false
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="type ? type.title : 'New event type'"
    width="460"
    append-to-body
    @closed="emit('close')"
  >
    <form class="fields" @submit.prevent="save">
      <label class="label" for="t-title">Title</label
      ><el-input id="t-title" v-model="form.title" placeholder="Vessel sold" />
      <label class="label" for="t-name">Name, as rules write it</label
      ><el-input id="t-name" v-model="form.name" placeholder="vessel-sold" :disabled="!!type" />
      <label class="label" for="t-description">What it is, and what its subject is</label
      ><el-input id="t-description" v-model="form.description" type="textarea" :rows="2" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="save">{{ type ? 'Save' : 'Add it' }}</el-button></template
    >
  </el-dialog>
</template>
