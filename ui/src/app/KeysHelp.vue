<script setup lang="ts">
const shown = defineModel<boolean>({ required: true })
const keys = [
  ['/ or Ctrl K', 'find anything, do anything'],
  ['j  k', 'next and former row; an open one goes along'],
  ['F6', 'from the list to what is open, and back'],
  ['x', 'mark a row'],
  ['Enter', 'open the row'],
  ['Esc', 'close what is open'],
  ['d e r t a', 'in a batch: destroy, extend, re-file, hand over, ask'],
  ['s', 'in a batch: sign; Ctrl Enter sends it'],
  ['?', 'this list'],
]
</script>

<template>
  <el-dialog v-model="shown" title="Keys" width="360">
    <dl class="kv">
      <template v-for="[key, does] in keys" :key="key"
        ><dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ does }}</dd></template
      >
    </dl>
  </el-dialog>
</template>
