<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { stageOf } from '@/shared/words'
import { keepTyped } from '@/shared/typed'
import UnitSelect from '@/shared/UnitSelect.vue'

/** @prop starter of the starter library, where it begins with one. */
const { starter } = defineProps<{ starter?: Schemas['SeriesDefinition'] }>()
const emit = defineEmits<{ close: []; made: [id: number] }>()
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const form = reactive({
  code: '',
  title: starter?.title ?? '',
  function: starter?.descriptors.function ?? '',
  unitId: null as number | null,
})
const saved = keepTyped('series.new', form)
const { act, busy, problem } = useAct(['schedule'])
const shown = ref(true)

const make = () =>
  act(async () => {
    const made = await take(
      api.POST('/api/series', {
        body: {
          code: form.code.trim(),
          unitId: form.unitId ?? units.data.value?.[0]?.id ?? 0,
          draft: {
            description: '',
            guidance: '',
            owner: '',
            authorities: [],
            permanent: false,
            join: 'later',
            clauses: [{ trigger: 'created', cutoff: 'fiscal', period: 'P7Y' }],
            atEnd: 'signOff',
            grade: 'kept',
            ratchet: false,
            graceDays: 90,
            stages: [stageOf('recordsManager'), stageOf('recordsManager')],
            ...starter,
            title: form.title,
            descriptors: { function: form.function.trim(), activity: '', subActivity: '', department: '', tags: [] },
          },
        },
      }),
    )
    saved()
    emit('made', made.row.id)
  })
</script>

<template>
  <el-dialog v-model="shown" title="New series" width="440" append-to-body @closed="emit('close')">
    <form class="form" @submit.prevent="make">
      <label class="label" for="code">Code</label><el-input id="code" v-model="form.code" placeholder="VES-060" />
      <p v-if="problem?.field === 'code'" class="problem" role="alert">{{ problem.message }}</p>
      <label class="label" for="title">Title</label><el-input id="title" v-model="form.title" />
      <p v-if="problem?.field === 'title'" class="problem" role="alert">{{ problem.message }}</p>
      <label class="label" for="function">Function</label
      ><el-input id="function" v-model="form.function" placeholder="Vessels" />
      <label class="label" for="unit">Unit whose records it holds</label>
      <UnitSelect id="unit" v-model="form.unitId" />
      <p v-if="problem && problem.field !== 'code' && problem.field !== 'title'" class="problem" role="alert">
        {{ problem.message }}
      </p>
      <p class="small quiet">
        It begins as a draft. Its rule is written next, and nothing is ruled by it before you put it into effect.
      </p>
      <div class="end">
        <el-button @click="shown = false">Leave it</el-button
        ><el-button type="primary" native-type="submit" :loading="busy">Make the draft</el-button>
      </div>
    </form>
  </el-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 6px;
}
.form p {
  margin: 2px 0;
}
.end {
  text-align: right;
  margin-top: 8px;
}
</style>
