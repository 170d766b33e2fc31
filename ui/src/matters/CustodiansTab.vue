<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { today } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import CustodianActivity from './CustodianActivity.vue'
import CustodianPlaces from './CustodianPlaces.vue'
import CustodiansTable from './CustodiansTable.vue'

const { matter, brief = false } = defineProps<{ matter: Schemas['MatterView']; brief?: boolean }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters'])
const may = computed(() => matter.part !== 'reader' && matter.state === 'open' && !brief)
const adding = ref(false)
const words = ref('')
const asked = refDebounced(words, 250)
const offers = useQuery({
  queryKey: computed(() => ['custodian-offers', matter.id, asked.value]),
  queryFn: () =>
    take(
      api.GET('/api/matters/{id}/custodians/offers', {
        params: { path: { id: matter.id }, query: { words: asked.value } },
      }),
    ),
  enabled: adding,
  placeholderData: keepPreviousData,
})
const chosen = ref<Schemas['CustodianOffer'] | null>(null)
const editing = ref<Schemas['CustodianView'] | null>(null)
const places = ref<number[]>([])
const authored = ref(true)
function choose(offer: Schemas['CustodianOffer']) {
  chosen.value = offer
  places.value = offer.places.filter((p) => p.sure).map((p) => p.id)
  authored.value = true
}
const showMatter = (m: Schemas['MatterView']) => put(['matter', matter.id], m)
async function add() {
  const done = await act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/custodians', {
          ...path,
          body: {
            personId: chosen.value!.personId,
            containers: places.value,
            authored: authored.value,
            declined: chosen.value!.places.filter((p) => p.sure && !places.value.includes(p.id)).map((p) => p.id),
          },
        }),
      ),
    ),
  )
  if (done) adding.value = false
}
const remove = (c: Schemas['CustodianView']) =>
  act(async () =>
    showMatter(
      await take(
        api.DELETE('/api/matters/{id}/custodians/{custodian}', {
          params: { path: { id: matter.id, custodian: c.id } },
        }),
      ),
    ),
  )
const decide = (c: Schemas['CustodianView'], place: number, theirs: boolean) =>
  act(async () =>
    showMatter(
      await take(
        api.PUT('/api/matters/{id}/custodians/{custodian}/found/{place}', {
          params: { path: { id: matter.id, custodian: c.id, place } },
          body: { theirs },
        }),
      ),
    ),
  )
const remind = (copy: number) =>
  act(() =>
    take(
      api.POST('/api/matters/{id}/notices/copies/{copy}/reminder', {
        params: { path: { id: matter.id, copy } },
      }),
    ),
  )
</script>

<template>
  <section class="custodians" aria-label="Custodians">
    <header>
      <h2>Custodians</h2>
      <el-button v-if="may" size="small" @click="((problem = null), (chosen = null), (words = ''), (adding = true))"
        >Add a custodian</el-button
      >
    </header>
    <p v-if="matter.custodians.length === 0" class="quiet">
      Nobody yet. A custodian is a person whose mailboxes, folders and channels the matter needs; the directory finds
      them.
    </p>
    <CustodiansTable
      v-else
      :matter="matter"
      :may="may"
      :brief="brief"
      :busy="busy"
      @edit="editing = $event"
      @remind="remind"
      @remove="remove"
      @decide="decide"
    />
    <p v-if="matter.custodians.some((c) => c.foundPlaces.length)" class="small quiet">
      A place that is not theirs stays kept by the orders in force; a release lets it go.
    </p>
    <p v-if="problem && !adding && !editing" class="problem" role="alert">{{ problem.message }}</p>
    <CustodianActivity v-if="!brief" :matter="matter" />
    <el-dialog v-model="adding" title="Add a custodian" width="620" append-to-body>
      <div class="fields">
        <label class="label" for="c-words">Name, address or unit, as the directory has it</label
        ><el-input id="c-words" v-model="words" placeholder="Nyman" clearable />
        <ul v-if="!chosen" class="offers">
          <li v-for="o in offers.data.value ?? []" :key="o.personId">
            <button :disabled="o.isCustodian" @click="choose(o)">
              <span
                ><strong>{{ o.name }}</strong> <span class="quiet small">{{ o.title }}, {{ o.unit }}</span></span
              ><span class="small quiet">{{
                o.isCustodian
                  ? 'is one already'
                  : `${plural(o.places.length, 'place')}, wrote ${count(o.authoredItems)}`
              }}</span>
            </button>
          </li>
        </ul>
        <template v-else>
          <p>
            <strong>{{ chosen.name }}</strong>
            {{ ' ' }}
            <span class="quiet">{{ chosen.mail }} · {{ chosen.title }}, {{ chosen.unit }}</span
            ><span v-if="chosen.leavesOn" class="late">
              · {{ chosen.leavesOn < today ? 'left' : 'leaves' }} {{ day(chosen.leavesOn) }}</span
            >
            {{ ' ' }}
            <button class="link small" @click="chosen = null">another</button>
          </p>
          <span class="label">Places that seem to be theirs</span>
          <label v-for="p in chosen.places" :key="p.id" class="check"
            ><input v-model="places" type="checkbox" :value="p.id" />
            {{ ' ' }}
            <span
              >{{ p.name }}
              <span class="quiet small">{{ p.source }} · {{ plural(p.items, 'item') }} · {{ p.why }}</span></span
            ></label
          >
          <p v-if="chosen.places.length === 0" class="small quiet">
            None was found by their name or by what they wrote.
          </p>
          <label class="check"
            ><input v-model="authored" type="checkbox" />
            {{ ' ' }}
            <span
              >and whatever they wrote or answer for elsewhere
              <span class="quiet small">{{ plural(chosen.authoredItems, 'item') }} today</span></span
            ></label
          >
        </template>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </div>
      <template #footer
        ><el-button @click="adding = false">Leave it</el-button
        ><el-button type="primary" :disabled="!chosen" :loading="busy" @click="add"
          >Add {{ chosen?.name ?? 'them' }}</el-button
        ></template
      >
    </el-dialog>
    <CustodianPlaces v-if="editing" :matter="matter.id" :custodian="editing" @close="editing = null" />
  </section>
</template>

<style scoped>
.custodians {
  display: grid;
  gap: 8px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  font-size: 16px;
}
.late {
  color: var(--copper);
}
.offers {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow: auto;
}
.offers button {
  display: flex;
  width: 100%;
  justify-content: space-between;
  gap: 12px;
  text-align: left;
  padding: 6px 8px;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
}
.offers button:hover:enabled {
  background: var(--sheet-2);
}
.offers button:disabled {
  color: var(--ink-3);
  cursor: default;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
