<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { count } from '@/shared/format'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import ChannelPane from './BoardPane.vue'
import FilePane from './FilePane.vue'
import FileSide from './FileSide.vue'
import FolderSheet from './FolderSheet.vue'
import { encoded } from './sending'
import { useTypedText } from '@/shared/typed'

const { number, text, put } = useUrl()
const library = number('library')
const folder = text('folder')
const file = number('file')
const libraries = useQuery({ queryKey: ['libraries'], queryFn: () => take(api.GET('/api/workspace/libraries')) })
const chosen = computed(() => libraries.data.value?.find((l) => l.id === library.value) ?? null)
const content = useQuery({
  queryKey: computed(() => ['folder', library.value, folder.value]),
  queryFn: () =>
    take(
      api.GET('/api/workspace/libraries/{id}/folder', {
        params: { path: { id: library.value! }, query: { folder: folder.value || undefined } },
      }),
    ),
  enabled: computed(() => !!library.value),
})
const crumbs = computed(() =>
  folder.value
    .split('/')
    .filter(Boolean)
    .map((name, i, all) => ({ name, path: all.slice(0, i + 1).join('/') })),
)
const { act, busy, problem } = useAct(['files', 'items'])
const adding = ref<'file' | 'folder' | null>(null)
const name = useTypedText('file.new')
const within = (n: string) => (folder.value ? `${folder.value}/${n}` : n)
async function add() {
  const id = library.value!
  const done = await act(async () => {
    if (adding.value === 'folder')
      await take(
        api.POST('/api/workspace/libraries/{id}/folders', {
          params: { path: { id } },
          body: { folder: within(name.value.trim()) },
        }),
      )
    else {
      const made = await take(
        api.POST('/api/workspace/libraries/{id}/files', {
          params: { path: { id } },
          body: { folder: folder.value, name: /\.\w+$/.test(name.value) ? name.value : `${name.value}.md`, text: '' },
        }),
      )
      await put({ file: String(made.id) }, true)
    }
  })
  if (!done) return
  adding.value = null
  name.value = ''
}
async function upload(event: Event) {
  const input = event.target as HTMLInputElement
  const sent = input.files?.[0]
  if (!sent) return
  await act(async () => {
    const content = await encoded(sent)
    const made = await take(
      api.POST('/api/workspace/libraries/{id}/files', {
        params: { path: { id: library.value! } },
        body: { folder: folder.value, name: sent.name, content },
      }),
    )
    await put({ file: String(made.id) }, true)
  })
  input.value = ''
}
const removeFolder = () =>
  act(async () => {
    await take(
      api.DELETE('/api/workspace/libraries/{id}/folders', {
        params: { path: { id: library.value! }, query: { folder: folder.value } },
      }),
    )
    await put({ folder: crumbs.value.at(-2)?.path ?? null })
  })
</script>

<template>
  <Workbench name="my-files" subject :side="!!file" :list-width="250">
    <template #list>
      <header class="head"><h1>My files</h1></header>
      <p v-if="libraries.data.value?.length === 0" class="quiet pad">
        No library of yours yet. Libraries appear here once an administrator has connected a workspace.
      </p>
      <nav class="scroll" aria-label="Libraries">
        <button
          v-for="l in libraries.data.value ?? []"
          :key="l.id"
          class="entry"
          :class="{ open: l.id === library }"
          :aria-current="l.id === library"
          @click="put({ library: String(l.id), folder: null, file: null }, true)"
        >
          <span
            ><strong>{{ l.name }}</strong
            ><small class="quiet">{{ l.unit }}{{ l.default ? ` · ${l.default.code}` : '' }}</small></span
          ><span class="num">{{ count(l.files) }}</span>
        </button>
      </nav>
    </template>
    <template #subject>
      <p v-if="!chosen" class="quiet">
        Choose a library. Everything that you do here is asked of the schedule first: what is kept, what is refused, and
        why, is said before you do it.
      </p>
      <FilePane v-else-if="file" :id="file" :key="file" />
      <ChannelPane v-else-if="chosen.isChannel && content.data.value" :folder="content.data.value" />
      <section v-else class="folder" :aria-label="chosen.name">
        <header>
          <h1>
            <button class="link" @click="folder = ''">{{ chosen.name }}</button><template
              v-for="c in crumbs"
              :key="c.path"
            >
              / <button class="link" @click="folder = c.path">{{ c.name }}</button></template
            >
          </h1>
          <p v-if="content.data.value?.default" class="small quiet">
            New files here are filed under {{ content.data.value.default.code }} {{ content.data.value.default.title }}.
          </p>
        </header>
        <p v-if="content.data.value?.mayWork" class="acts-row">
          <el-button size="small" @click="((problem = null), (name = ''), (adding = 'file'))">New text</el-button
          ><label class="upload">Send a file <input type="file" class="sr" @change="upload" /></label
          ><el-button size="small" @click="((problem = null), (name = ''), (adding = 'folder'))">New folder</el-button
          ><button
            v-if="folder && content.data.value.files.length === 0 && content.data.value.folders.length === 0"
            class="link"
            @click="removeFolder"
          >
            Remove this folder
          </button>
        </p>
        <p v-if="content.error.value" class="problem" role="alert">{{ content.error.value.message }}</p>
        <p v-if="problem && !adding" class="problem" role="alert">{{ problem.message }}</p>
        <FolderSheet
          v-if="content.data.value"
          :folder="content.data.value"
          @enter="folder = within($event)"
          @open="put({ file: String($event) }, true)"
        />
      </section>
    </template>
    <template #side><FileSide v-if="file" :id="file" :key="file" /></template>
  </Workbench>
  <el-dialog
    :model-value="!!adding"
    :title="adding === 'folder' ? 'New folder' : 'New text'"
    width="380"
    append-to-body
    @close="adding = null"
  >
    <form class="fields" @submit.prevent="add">
      <label class="label" for="f-name">Name</label
      ><el-input id="f-name" v-model="name" :placeholder="adding === 'folder' ? 'Spare parts' : 'Notes.md'" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="adding = null">Leave it</el-button
      ><el-button type="primary" :disabled="!name.trim()" :loading="busy" @click="add">Make it</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.head {
  padding: 14px 16px 10px;
  border-bottom: 1px solid var(--line);
}
.head h1 {
  font-size: 18px;
}
.pad {
  padding: 12px 16px;
  margin: 0;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.entry {
  display: flex;
  width: 100%;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  text-align: left;
  padding: 8px 16px;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
  line-height: 1.35;
}
.entry span:first-child {
  display: grid;
}
.entry small {
  font-size: 12px;
}
.entry:hover {
  background: var(--sheet-2);
}
.entry.open {
  background: var(--sea-wash);
  box-shadow: inset 3px 0 0 var(--sea);
}
.folder {
  display: grid;
  gap: 12px;
  align-content: start;
}
.folder h1 {
  font-size: 21px;
}
.folder p {
  margin: 0;
}
.upload {
  display: inline-flex;
  align-items: center;
  height: 24px;
  padding: 0 11px;
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  font-size: 12px;
  cursor: pointer;
  background: var(--sheet);
}
.upload:focus-within {
  outline: 2px solid var(--focus);
}
</style>
