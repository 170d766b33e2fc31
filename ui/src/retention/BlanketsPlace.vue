<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import BlanketPane from './BlanketPane.vue'
import SchedulePage from './SchedulePage.vue'
import { keepTyped } from '@/shared/typed'
import UnitSelect from '@/shared/UnitSelect.vue'

const { number } = useUrl()
const open = number('blanket')
const { act, busy, problem } = useAct(['schedule'])
const { data, error } = useQuery({ queryKey: ['blankets'], queryFn: () => take(api.GET('/api/blankets')) })
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const containers = useQuery({ queryKey: ['containers'], queryFn: () => take(api.GET('/api/containers')) })
const adding = ref(false)
const form = reactive({ name: '', unitId: null as number | null, containers: [] as number[] })
const saved = keepTyped('blanket.new', form)
const chosen = computed(() => data.value?.find((b) => b.id === open.value))
const stateWords = { draft: 'not in force yet', active: 'in force', retired: 'retired' }

async function add() {
  const done = await act(async () => {
    const made = await take(
      api.POST('/api/blankets', {
        body: {
          name: form.name,
          unitId: form.unitId ?? units.data.value?.[0]?.id ?? 0,
          draft: {
            description: '',
            reach: { query: null, containers: form.containers, except: [] },
            from: 'modified',
            keep: 'P3Y',
            destroys: false,
            destroyAfter: null,
          },
        },
      }),
    )
    open.value = made.id
  })
  if (done) {
    saved()
    adding.value = false
    Object.assign(form, { name: '', unitId: null, containers: [] })
  }
}
</script>

<template>
  <SchedulePage title="Blankets" note="rules laid over whole containers, beneath the series" :problem="error?.message">
    <template #acts
      ><el-button v-if="may('writeSchedule')" @click="((problem = null), (adding = true))"
        >New blanket</el-button
      ></template
    >
    <section v-if="data?.length === 0" class="panel block">
      <h2>No blanket yet</h2>
      <p class="quiet">
        A blanket keeps or clears everything in some containers. Where a series rules an item, the series’ choice at the
        end goes before the blanket’s; of several that keep, the longest wins.
      </p>
    </section>
    <section v-else-if="data" class="panel block" aria-label="Blankets">
      <table class="sheet">
        <thead>
          <tr>
            <th>Blanket</th>
            <th>Rule</th>
            <th>Unit</th>
            <th class="num">Containers</th>
            <th class="num">Items</th>
            <th class="num">Size</th>
            <th class="num">Kept though deleted</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="b in data" :key="b.id" :class="{ open: b.id === open }">
            <td>
              <button class="link" :aria-expanded="b.id === open" @click="open = b.id === open ? null : b.id">
                {{ b.name }}
              </button>
              {{ ' ' }}
              <span class="small quiet"
                >{{ stateWords[b.state] }}{{ b.draft && b.inForce ? ', draft waits' : '' }}</span
              >
            </td>
            <td>{{ b.rule }}</td>
            <td>{{ b.unit }}</td>
            <td class="num">{{ count(b.covered.length) }}</td>
            <td class="num">
              <RouterLink v-if="b.items" :to="{ path: '/content', query: { container: b.covered.map((c) => c.id) } }">{{
                count(b.items)
              }}</RouterLink><span v-else>0</span>
            </td>
            <td class="num">{{ bytes(b.bytes) }}</td>
            <td class="num">
              <RouterLink
                v-if="b.keptCopies.items"
                :to="{ path: '/content', query: { container: b.covered.map((c) => c.id), missing: 'true' } }"
                :title="plural(b.keptCopies.items, 'copy', 'copies')"
                >{{ bytes(b.keptCopies.bytes) }}</RouterLink><span v-else>–</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <BlanketPane v-if="chosen" :key="chosen.id" :blanket="chosen" />
    <el-dialog v-model="adding" title="New blanket" width="460" append-to-body>
      <form class="fields" @submit.prevent="add">
        <label class="label" for="b-name">Name</label
        ><el-input id="b-name" v-model="form.name" placeholder="All mail" />
        <label class="label" for="b-unit">Unit whose containers it may cover</label>
        <UnitSelect id="b-unit" v-model="form.unitId" />
        <label class="label" for="b-containers">Containers</label>
        <el-select id="b-containers" v-model="form.containers" aria-label="Containers" multiple filterable collapse-tags
          ><el-option v-for="c in containers.data.value ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></el-select>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
        <p class="small quiet">
          It begins as a draft; its sentence is written next, and nothing is ruled by it before you put it into effect.
        </p>
      </form>
      <template #footer
        ><el-button @click="adding = false">Leave it</el-button
        ><el-button type="primary" :loading="busy" @click="add">Make the draft</el-button></template
      >
    </el-dialog>
  </SchedulePage>
</template>
