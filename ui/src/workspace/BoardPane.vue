<script setup lang="ts">
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import StateMark from '@/shared/StateMark.vue'
import { useUrl } from '@/shared/url'
import { useTypedText } from '@/shared/typed'

/** A board of posts: one below the other, the newest last, and a place to write the next. */
const { folder } = defineProps<{ folder: Schemas['FolderView'] }>()
const { put } = useUrl()
const { act, busy, problem } = useAct(['files', 'items'])
const text = useTypedText(`post.${folder.library.id}`)
async function post() {
  if (
    await act(() =>
      take(
        api.POST('/api/workspace/libraries/{id}/posts', {
          params: { path: { id: folder.library.id } },
          body: { text: text.value },
        }),
      ),
    )
  )
    text.value = ''
}
</script>

<template>
  <section class="channel" :aria-label="folder.library.name">
    <h1>{{ folder.library.name }}</h1>
    <article v-for="p in folder.files" :key="p.id">
      <p class="small">
        <strong>{{ p.by }}</strong> <span class="quiet">{{ moment(p.at) }}</span>
        {{ ' ' }}
        <StateMark v-if="p.state !== 'noRule'" :state="p.state" />
        {{ ' ' }}
        <button class="link quiet" @click="put({ file: String(p.id) }, true)">open</button>
      </p>
      <p class="text">{{ p.post?.trim() }}</p>
    </article>
    <p v-if="folder.files.length === 0" class="quiet">Nobody has written here yet.</p>
    <form v-if="folder.mayWork" @submit.prevent="post">
      <label class="label" for="post">Write to {{ folder.library.name }}</label
      ><el-input id="post" v-model="text" type="textarea" :rows="2" maxlength="20000" @keydown.ctrl.enter="post" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <el-button type="primary" native-type="submit" size="small" :disabled="!text.trim()" :loading="busy"
        >Post</el-button
      >
    </form>
  </section>
</template>

<style scoped>
.channel {
  display: grid;
  gap: 14px;
  max-width: 720px;
  align-content: start;
}
h1 {
  font-size: 21px;
}
article {
  display: grid;
  gap: 2px;
  padding-left: 12px;
  border-left: 2px solid var(--line);
}
p {
  margin: 0;
}
.text {
  white-space: pre-wrap;
  font-size: 15px;
}
form {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
}
form .el-button {
  justify-self: start;
}
</style>
