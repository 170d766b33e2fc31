<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { roleWords } from '@/shared/words'

/** Roles that see the proofs of a part; none chosen means everybody who reads readiness. */
const roles = defineModel<Schemas['Role'][]>({ required: true })
defineProps<{ disabled?: boolean }>()
</script>

<template>
  <el-select
    v-model="roles"
    multiple
    size="small"
    :disabled="disabled"
    aria-label="Who sees its proofs"
    placeholder="everybody who reads readiness"
    ><el-option v-for="(words, role) in roleWords" :key="role" :value="role" :label="words"
  /></el-select>
</template>
