<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { keepTyped } from '@/shared/typed'
import UnitSelect from '@/shared/UnitSelect.vue'
import { kindWords } from './words'

const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const shown = ref(true)
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const { act, busy, problem } = useAct(['matters'])
const form = reactive({
  name: '',
  description: '',
  kind: 'litigation' as Schemas['MatterKind'],
  unitId: null as number | null,
})
const saved = keepTyped('matter.new', form)

async function add() {
  await act(async () => {
    const made = await take(
      api.POST('/api/matters', { body: { ...form, unitId: form.unitId ?? units.data.value?.[0]?.id ?? 0 } }),
    )
    saved()
    shown.value = false
    await router.push(`/matters/${made.id}`)
  })
}
</script>

<template>
  <el-dialog v-model="shown" title="Open a matter" width="480" append-to-body @closed="emit('close')">
    <form class="fields" @submit.prevent="add">
      <label class="label" for="m-name">Name</label
      ><el-input id="m-name" v-model="form.name" placeholder="Collision with pier 4" />
      <label class="label" for="m-kind">Kind</label
      ><el-select id="m-kind" v-model="form.kind" aria-label="Kind"
        ><el-option v-for="(w, k) in kindWords" :key="k" :value="k" :label="w"
      /></el-select>
      <label class="label" for="m-unit">Unit whose content it may reach</label>
      <UnitSelect id="m-unit" v-model="form.unitId" />
      <label class="label" for="m-description">What it is about</label
      ><el-input id="m-description" v-model="form.description" type="textarea" :rows="3" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="small quiet">You become its lead. Nobody else learns of it until you let them in.</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="add">Open it</el-button></template
    >
  </el-dialog>
</template>
