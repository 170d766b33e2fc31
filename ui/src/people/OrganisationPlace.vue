<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, reactive, ref, watch } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { moment } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import EncryptionSection from './EncryptionSection.vue'
import InnerNetworksSection from './InnerNetworksSection.vue'
import SecondPersonSection from './SecondPersonSection.vue'
import ServerSection from './ServerSection.vue'

const { data, error } = useQuery({ queryKey: ['settings'], queryFn: () => take(api.GET('/api/settings')) })
const form = reactive({ name: '', zone: '', fiscalYearEnd: '' })
watch(data, (d) => d && Object.assign(form, { name: d.name, zone: d.zone, fiscalYearEnd: d.fiscalYearEnd }), {
  immediate: true,
})
const changed = computed(
  () =>
    !!data.value &&
    (form.name !== data.value.name || form.zone !== data.value.zone || form.fiscalYearEnd !== data.value.fiscalYearEnd),
)
const { act, busy, problem } = useAct(['settings'], { refused: () => preview.refetch() })
const preview = useQuery({
  queryKey: computed(() => ['settings-consequences', { ...form }]),
  queryFn: () => take(api.POST('/api/settings/consequences', { body: { ...form } })),
  enabled: changed,
  gcTime: 0,
  retry: false,
})
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const asking = ref(false)
const word = 'for good'

const second = computed(() => !!preview.data.value?.secondPerson)
const why = ref('')
const save = () =>
  act(async () => {
    await take(
      api.PUT('/api/settings', {
        body: { ...form, fingerprint: preview.data.value!.fingerprint, why: why.value.trim() || null },
      }),
    )
    ElMessage({ message: 'Saved.', type: 'success' })
  })
async function ask(why: string) {
  if (await act(() => take(api.POST('/api/settings/worm', { body: { why, word } })))) asking.value = false
}
</script>

<template>
  <main class="page">
    <header><h1>Organisation</h1></header>
    <p v-if="error" class="problem">{{ error.message }}</p>
    <section v-if="data" class="panel block" aria-label="Calendar">
      <h2>Calendar</h2>
      <form class="fields" @submit.prevent="save">
        <label class="label" for="o-name">Name</label><el-input id="o-name" v-model="form.name" />
        <label class="label" for="o-zone">Time zone in which dates are read</label
        ><el-input id="o-zone" v-model="form.zone" placeholder="Europe/Copenhagen" />
        <label class="label" for="o-year">Last day of the fiscal year, month and day</label
        ><el-input id="o-year" v-model="form.fiscalYearEnd" placeholder="09-30" class="short" />
      </form>
      <template v-if="changed">
        <Consequences
          :view="preview.data.value"
          :loading="preview.isFetching.value"
          :problem="preview.error.value?.message"
          of="calendar"
          :load="
            may('readContent')
              ? (group) =>
                  take(
                    api.POST('/api/settings/consequences/{group}', { params: { path: { group } }, body: { ...form } }),
                  )
              : undefined
          "
        />
        <template v-if="second"
          ><label class="label" for="o-why">Why</label
          ><el-input id="o-why" v-model="why" type="textarea" :rows="2" maxlength="1000"
        /></template>
        <p v-if="problem && !asking" class="problem" role="alert">{{ problem.message }}</p>
        <p>
          <el-button
            :type="due ? 'danger' : 'primary'"
            :disabled="!preview.data.value || preview.isFetching.value || (second && !why.trim())"
            :loading="busy"
            @click="save"
            >{{ second ? 'Ask a second person' : `Save — ${becomeDue(due)}` }}</el-button
          >
        </p>
      </template>
    </section>
    <section v-if="data" class="panel block" aria-label="WORM">
      <h2>WORM</h2>
      <p v-if="data.wormEnabledAt">
        Enabled {{ moment(data.wormEnabledAt) }}, for good. A series with this grade can be lengthened, never shortened.
      </p>
      <template v-else>
        <p>
          “Write once, read many” is the strongest grade: nobody, not even an administrator, changes, deletes, re-files
          or shortens what is under it until its term is over. Enable it only where a law asks for it; it cannot be
          disabled again.
        </p>
        <p v-if="data.wormAsked" class="lacking">It was asked for and waits for a second person, on Today.</p>
        <p v-else><el-button @click="((problem = null), (asking = true))">Ask to enable WORM …</el-button></p>
      </template>
    </section>
    <SecondPersonSection />
    <InnerNetworksSection v-if="may('managePeople')" />
    <ServerSection />
    <EncryptionSection />
    <WhyDialog
      v-if="asking"
      title="Enable WORM"
      says="Ask a second person"
      danger
      :busy="busy"
      :problem="problem"
      :word="word"
      @go="ask"
      @close="asking = false"
      ><p>
        What is put under WORM cannot be undone by anyone. Another person must agree before it is enabled.
      </p></WhyDialog
    >
  </main>
</template>

<style scoped>
.page {
  max-width: 820px;
  margin: 0 auto;
  padding: 24px 20px 40px;
  display: grid;
  gap: 16px;
}
h1 {
  font-size: 25px;
}
h2 {
  font-size: 18px;
}
.block {
  padding: 16px 20px;
  display: grid;
  gap: 10px;
}
.block p {
  margin: 0;
}
.fields {
  display: grid;
  gap: 6px;
}
.short {
  width: 120px;
}
.lacking {
  color: var(--copper);
}
</style>
