<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'

/** What a change would give and take, counted before it is made; its button says the size of it. */
const { change, busy = false } = defineProps<{ change: Schemas['ChangeRequest']; busy?: boolean }>()
const emit = defineEmits<{ carry: [reason: string] }>()
const reason = ref(change.reason ?? '')
const { data, error, isFetching } = useQuery({
  queryKey: computed(() => ['reach', 'consequences', change]),
  queryFn: () => take(api.POST('/api/access/consequences', { body: change })),
  gcTime: 0,
  retry: false,
})
const shown = ref(12)
const label = computed(() => {
  if (!data.value) return 'Change the directory'
  const parts = [
    data.value.gains && `give ${plural(data.value.gains, 'access', 'accesses')}`,
    data.value.losses && `take ${plural(data.value.losses, 'access', 'accesses')}`,
  ].filter(Boolean)
  return parts.length
    ? `${parts.join(' and ')[0]!.toUpperCase()}${parts.join(' and ').slice(1)}`
    : 'Change it; nobody gains or loses'
})
</script>

<template>
  <div class="panel block consequences" :class="{ quiet: isFetching }">
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <p>
        <strong>{{ plural(data.people, 'person', 'people') }}</strong> would be touched:
        {{ plural(data.gains, 'access', 'accesses') }} gained, {{ data.losses }} lost<template v-if="data.sensitive"
          >, <strong class="lacking">◆ {{ data.sensitive }} in sensitive places</strong></template
        >.
      </p>
      <ul v-if="data.toxicPairs.length" class="lacking" role="alert">
        <li v-for="t in data.toxicPairs" :key="t">▲ Toxic pair: {{ t }}</li>
      </ul>
      <table v-if="data.differences.length" class="sheet">
        <tbody>
          <tr v-for="d in data.differences.slice(0, shown)" :key="d.person + d.resource">
            <td>{{ d.personName }}</td>
            <td>{{ d.resourceName }} <span v-if="d.sensitive" class="lacking small">◆ sensitive</span></td>
            <td class="gain">{{ d.gained.length ? `+ ${d.gained.join(', ')}` : '' }}</td>
            <td class="loss">{{ d.lost.length ? `− ${d.lost.join(', ')}` : '' }}</td>
          </tr>
        </tbody>
      </table>
      <ShowMore v-model="shown" :of="data.differences.length" />
      <p v-if="may('manageAccess')" class="row">
        <el-input v-model="reason" size="small" placeholder="Why" aria-label="Reason" />
        <el-button type="primary" size="small" :loading="busy" @click="emit('carry', reason)">{{ label }}</el-button>
      </p>
    </template>
  </div>
</template>

<style scoped>
.consequences {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
p {
  margin: 0;
}
.row {
  display: flex;
  gap: 8px;
}
.gain {
  color: var(--sea);
}
.loss {
  color: var(--copper);
}
</style>
