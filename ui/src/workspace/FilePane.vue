<script setup lang="ts">
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { bytes, moment } from '@/shared/format'
import StateMark from '@/shared/StateMark.vue'
import { useUrl } from '@/shared/url'
import { gradeWords } from '@/shared/words'
import FileFields from './FileFields.vue'
import MoveFile from './MoveFile.vue'
import { useFile } from './useFile'
import { useTyped } from '@/shared/typed'

type Operation = Schemas['Operation']
const { id } = defineProps<{ id: number }>()
const path = { params: { path: { id } } }
const { put: putUrl } = useUrl()
const { data, error } = useFile(id)
const { act, busy, problem, put } = useAct(['files', 'items'])
/** What is being written here and not saved yet; survives a reload. */
const written = useTyped<string>(`file.${id}`)
const changed = computed(() => written.value !== null && written.value !== (data.value?.text ?? ''))
const can = (o: Operation) => data.value?.operations.find((x) => x.operation === o)
/** Why a button above cannot be pressed, each sentence once; what is said of the text stands beside the text. */
const refusals = computed(() => {
  const beside = data.value?.text == null ? null : can('editContent')?.sentence
  return [
    ...new Set(
      (['editFields', 'moveWithin', 'delete'] as const)
        .map((o) => can(o))
        .filter((o) => o && !o.allowed && o.sentence !== beside)
        .map((o) => o!.sentence),
    ),
  ]
})
const show = (f: Schemas['WorkspaceFileView']) => put(['file', id], f)
const dialog = ref<'rename' | 'move' | 'delete' | 'fields' | null>(null)
const name = ref('')
const match = () => ifMatch(data.value!.revision)

async function save() {
  const done = await act(async () =>
    show(
      await take(api.PUT('/api/workspace/files/{id}/text', { ...path, ...match(), body: { text: written.value! } })),
    ),
  )
  if (done) written.value = null
}
async function succeed() {
  await act(async () => {
    const next = await take(
      api.POST('/api/workspace/files/{id}/successor', {
        ...path,
        body: { text: written.value ?? data.value!.text ?? '' },
      }),
    )
    written.value = null
    await putUrl({ file: String(next.id) }, true)
  })
}
async function rename() {
  if (
    await act(async () =>
      show(await take(api.POST('/api/workspace/files/{id}/name', { ...path, ...match(), body: { name: name.value } }))),
    )
  )
    dialog.value = null
}
async function remove() {
  const kept = can('delete')!.sentence
  const done = await act(async () => {
    await take(api.DELETE('/api/workspace/files/{id}', { ...path, ...match() }))
    await putUrl({ file: null })
  })
  if (done) {
    dialog.value = null
    ElMessage({ message: kept ?? 'Deleted.', type: 'success' })
  }
}
function begin(what: NonNullable<typeof dialog.value>) {
  problem.value = null
  name.value = data.value!.name
  dialog.value = what
}
</script>

<template>
  <p v-if="error" class="problem" role="alert">
    {{ error.message }} <button class="link" @click="putUrl({ file: null })">Back to the folder</button>
  </p>
  <article v-else-if="data" class="file">
    <header>
      <div>
        <p class="small quiet">{{ data.library }}{{ data.folder ? ` / ${data.folder}` : '' }}</p>
        <h1>{{ data.name }}</h1>
      </div>
      <button class="link" @click="putUrl({ file: null })">Close</button>
    </header>
    <p class="standing">
      <StateMark :state="data.state" /> <span>{{ data.standing }}</span>
    </p>
    <p v-if="data.next" class="small">
      A newer version:
      <button class="link" @click="putUrl({ file: String(data!.next!.id) }, true)">{{ data.next.name }}</button>
    </p>
    <p v-if="data.follows" class="small">
      A newer version of
      <button class="link" @click="putUrl({ file: String(data!.follows!.id) }, true)">{{ data.follows.name }}</button>
    </p>
    <p v-if="data.mayWork" class="acts-row">
      <el-button
        size="small"
        :disabled="!can('editFields')!.allowed"
        :title="can('editFields')!.sentence ?? undefined"
        @click="begin('rename')"
        >Rename</el-button
      >
      <el-button size="small" :disabled="!can('moveWithin')!.allowed" @click="begin('move')">Move</el-button>
      <el-button size="small" :disabled="!can('editFields')!.allowed" @click="begin('fields')">Fields</el-button>
      <el-button
        size="small"
        :disabled="!can('delete')!.allowed"
        :title="can('delete')!.sentence ?? undefined"
        @click="begin('delete')"
        >Delete</el-button
      >
      <a :href="`/api/workspace/files/${id}/content`" download>Take a copy</a>
    </p>
    <template v-if="data.mayWork"
      ><p v-for="s in refusals" :key="s ?? ''" class="why no">{{ s }}</p></template
    >
    <template v-if="data.text !== null">
      <p v-if="can('editContent')!.sentence && data.mayWork" class="why" :class="{ no: !can('editContent')!.allowed }">
        {{ can('editContent')!.sentence }}
      </p>
      <label class="sr" for="text">Text of {{ data.name }}</label>
      <textarea
        id="text"
        :value="written ?? data.text"
        :readonly="!data.mayWork"
        spellcheck="false"
        @input="written = ($event.target as HTMLTextAreaElement).value"
      />
      <p v-if="problem && !dialog" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="data.mayWork" class="acts-row">
        <el-button v-if="can('editContent')!.allowed" type="primary" :disabled="!changed" :loading="busy" @click="save"
          >Save</el-button
        >
        <el-button v-else type="primary" :disabled="!changed || !!data.next" :loading="busy" @click="succeed"
          >Save as a new version beside it</el-button
        >
        <el-button v-if="changed" @click="written = null">As it was</el-button>
      </p>
    </template>
    <p v-else class="quiet">
      {{ data.type.toUpperCase() || 'A file' }} of {{ bytes(data.bytes) }}; take a copy to read it.
    </p>
    <dl class="kv">
      <dt>Series</dt>
      <dd>{{ data.series ? `${data.series.code} ${data.series.title}` : 'none' }}</dd>
      <dt>Protection</dt>
      <dd>{{ gradeWords[data.grade] }}</dd>
      <template v-for="(v, k) in data.fields" :key="k"
        ><dt>{{ String(k).replaceAll('-', ' ') }}</dt>
        <dd>{{ v }}</dd></template
      >
      <dt>Changed</dt>
      <dd>{{ moment(data.at) }}{{ data.by ? ` by ${data.by}` : '' }}</dd>
    </dl>
    <el-dialog :model-value="dialog === 'rename'" title="Rename" width="420" append-to-body @close="dialog = null"
      ><form class="fields" @submit.prevent="rename">
        <label class="label" for="r-name">New name</label><el-input id="r-name" v-model="name" />
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="dialog = null">Leave it</el-button
        ><el-button type="primary" :loading="busy" @click="rename">Rename</el-button></template
      ></el-dialog
    >
    <MoveFile
      v-if="dialog === 'move'"
      :file="data"
      :across="can('moveAcross')!.sentence"
      @moved="show"
      @close="dialog = null"
    />
    <el-dialog :model-value="dialog === 'delete'" title="Delete" width="420" append-to-body @close="dialog = null"
      ><p>{{ data.name }}</p>
      <p class="why">{{ can('delete')!.sentence ?? 'Nothing keeps it: it is gone for good.' }}</p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="dialog = null">Leave it</el-button
        ><el-button type="danger" :loading="busy" @click="remove">Delete it</el-button></template
      ></el-dialog
    >
    <FileFields v-if="dialog === 'fields'" :file="data" @saved="show" @close="dialog = null" />
  </article>
</template>

<style scoped>
.file {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 16px;
}
h1 {
  font-size: 21px;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
.standing {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
  font-size: 15px;
}
.why {
  padding: 6px 10px;
  border-left: 3px solid var(--sea);
  background: var(--sea-wash);
}
.why.no {
  border-left-color: var(--copper);
  background: var(--copper-wash);
}
textarea {
  width: 100%;
  min-height: 260px;
  font: 14px/1.55 var(--sans);
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  padding: 10px 12px;
  resize: vertical;
}
textarea[readonly] {
  background: var(--sheet-2);
}
</style>
