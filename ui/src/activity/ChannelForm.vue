<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { may } from '@/shared/session'
import { keepTyped } from '@/shared/typed'
import MappingEditor from './MappingEditor.vue'
import { feedWords, formatWords } from './words'

/** Connects a log, or changes what a channel admits and keeps. */
const { channel } = defineProps<{ channel?: Schemas['ChannelView'] }>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const was = channel?.settings
const form = reactive({
  name: channel?.name ?? '',
  feed: channel?.feed ?? ('http' as Schemas['ChannelFeed']),
  title: was?.title ?? '',
  format: was?.format ?? ('json' as Schemas['EventFormat']),
  retention: was?.retention ?? 'P2Y',
  daysAtHand: was?.daysAtHand ?? 400,
  latenessHours: was?.latenessHours ?? 2,
  openToAnalysts: was?.openToAnalysts ?? true,
  readers: [...(was?.readers ?? [])] as number[],
  reads: was?.admits?.reads ?? true,
  writes: was?.admits?.writes ?? true,
  include: was?.admits?.include ?? '',
  except: was?.admits?.except ?? '',
  categories: [...(was?.admits?.categories ?? [])] as string[],
  folder: was?.folder ?? '',
  port: was?.port ?? 0,
  certificateFile: was?.certificateFile ?? '',
  connected: was?.connected ?? true,
})
const mapping = ref<Schemas['EventMapping'] | null>(was?.mapping ?? null)
const saved = keepTyped(`channel.${channel?.id ?? 'new'}`, form)
const people = useQuery({
  queryKey: ['people'],
  queryFn: () => take(api.GET('/api/people')),
  enabled: computed(() => may('managePeople')),
})
const { act, busy, problem } = useAct(['channels', 'activity'])
const categories = ['sign-in', 'content', 'sharing', 'admin', 'mail', 'permission', 'configuration', 'logging']
const syslog = computed(() => form.feed === 'syslog')

async function save() {
  const settings: Schemas['ChannelSettings'] = {
    title: form.title,
    format: syslog.value ? 'syslog' : form.format,
    retention: form.retention,
    daysAtHand: form.daysAtHand,
    latenessHours: form.latenessHours,
    openToAnalysts: form.openToAnalysts,
    readers: form.openToAnalysts ? [] : form.readers,
    admits: {
      reads: form.reads,
      writes: form.writes,
      include: form.include || null,
      except: form.except || null,
      categories: form.categories,
    },
    mapping: form.format === 'csv' && !syslog.value ? mapping.value : null,
    folder: form.folder,
    port: syslog.value ? form.port : 0,
    certificateFile: form.certificateFile,
    connected: form.connected,
  }
  const done = await act(() =>
    channel
      ? take(
          api.PUT('/api/channels/{id}', {
            params: { path: { id: channel.id } },
            ...ifMatch(channel.revision),
            body: settings,
          }),
        )
      : take(api.POST('/api/channels', { body: { name: form.name, feed: form.feed, settings } })),
  )
  if (done) {
    saved()
    emit('close')
  }
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="channel ? `Change ${channel.settings.title}` : 'Connect a log'"
    width="720"
    append-to-body
    @closed="emit('close')"
  >
    <form class="grid" @submit.prevent="save">
      <label class="label" for="c-title">Title</label
      ><el-input id="c-title" v-model="form.title" placeholder="Door system of the yard" />
      <template v-if="!channel">
        <label class="label" for="c-name">Name in events and files</label
        ><el-input id="c-name" v-model="form.name" placeholder="yard-doors" /> <span class="label">How it comes</span
        ><el-select v-model="form.feed" aria-label="How it comes"
          ><el-option v-for="(w, f) in feedWords" :key="f" :value="f" :label="w"
        /></el-select>
      </template>
      <template v-if="!syslog && form.feed !== 'ledger'">
        <span class="label">What its lines are</span
        ><el-select v-model="form.format" aria-label="What its lines are"
          ><el-option v-for="f in ['json', 'csv'] as const" :key="f" :value="f" :label="formatWords[f]"
        /></el-select>
      </template>
      <template v-if="syslog">
        <label class="label" for="c-port">Port</label
        ><el-input-number id="c-port" v-model="form.port" :controls="false" />
        <label class="label" for="c-cert">Certificate (PEM file), for TLS</label
        ><el-input id="c-cert" v-model="form.certificateFile" placeholder="none: plain TCP" />
      </template>
      <template v-if="form.feed === 'folder'">
        <label class="label" for="c-folder">Folder on the server</label><el-input id="c-folder" v-model="form.folder" />
      </template>
      <label class="label" for="c-retention">Keep each event for</label
      ><el-input id="c-retention" v-model="form.retention" placeholder="P2Y" />
      <label class="label" for="c-days">Days at hand</label
      ><el-input-number id="c-days" v-model="form.daysAtHand" :min="1" :max="4000" :controls="false" />
      <span class="label">Admit</span>
      <span
        ><el-checkbox v-model="form.reads">what only looks</el-checkbox
        ><el-checkbox v-model="form.writes">what changes something</el-checkbox></span
      >
      <span class="label">Categories</span
      ><el-select v-model="form.categories" multiple placeholder="all" aria-label="Categories"
        ><el-option v-for="c in categories" :key="c" :value="c" :label="c"
      /></el-select>
      <label class="label" for="c-include">Only where</label
      ><el-input id="c-include" v-model="form.include" placeholder="everything" />
      <label class="label" for="c-except">Except where</label
      ><el-input id="c-except" v-model="form.except" placeholder="actor = backup@tarnholm.example" />
      <span class="label">Who reads it</span>
      <span><el-checkbox v-model="form.openToAnalysts">everybody who may read activity</el-checkbox></span>
      <template v-if="!form.openToAnalysts"
        ><span class="label">Readers</span
        ><el-select v-model="form.readers" multiple filterable aria-label="Readers"
          ><el-option v-for="p in people.data.value ?? []" :key="p.id" :value="p.id" :label="p.name" /></el-select
      ></template>
      <template v-if="channel"
        ><span class="label">State</span><el-checkbox v-model="form.connected">takes lines in</el-checkbox></template
      >
    </form>
    <MappingEditor v-if="!syslog && form.feed !== 'ledger'" v-model="mapping" :format="form.format" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="emit('close')">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="save">{{
        channel ? 'Change the channel' : 'Connect it'
      }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 8px 14px;
  align-items: center;
}
</style>
