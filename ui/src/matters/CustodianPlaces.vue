<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'

/** Which mailboxes, folders and channels are a custodian's. */
const { matter, custodian } = defineProps<{ matter: number; custodian: Schemas['CustodianView'] }>()
const emit = defineEmits<{ close: [] }>()
const { act, busy, problem, put } = useAct(['matters'])
const shown = ref(true)
const places = ref(custodian.containers.map((x) => x.id))
const authored = ref(custodian.authored)
const containers = useQuery({ queryKey: ['containers'], queryFn: () => take(api.GET('/api/containers')) })
async function save() {
  const done = await act(async () =>
    put(
      ['matter', matter],
      await take(
        api.PUT('/api/matters/{id}/custodians/{custodian}', {
          params: { path: { id: matter, custodian: custodian.id } },
          body: { containers: places.value, authored: authored.value },
        }),
      ),
    ),
  )
  if (done) shown.value = false
}
</script>

<template>
  <el-dialog v-model="shown" :title="`Places of ${custodian.name}`" width="520" append-to-body @closed="emit('close')">
    <div class="fields">
      <label class="label" for="c-places">Mailboxes, folders and channels</label>
      <el-select id="c-places" v-model="places" aria-label="Places" multiple filterable
        ><el-option
          v-for="c in containers.data.value ?? []"
          :key="c.id"
          :value="c.id"
          :label="`${c.name} · ${c.source}`"
      /></el-select>
      <label class="check"
        ><input v-model="authored" type="checkbox" />
        {{ ' ' }}
        <span>and whatever they wrote or answer for elsewhere</span></label
      >
      <p class="small quiet">
        Orders in force go on with the places they were put in force with, until they are put in force again.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </div>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="save">Save</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
