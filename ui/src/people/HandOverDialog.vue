<script setup lang="ts">
/** The link of an invitation, where the product sends no mail: shown once, to be handed over. */
defineProps<{ name: string; link: string }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Hand over this link"
    width="560"
    append-to-body
    @update:model-value="emit('close')"
  >
    <p>
      No mail server is set, so {{ name }} gets this link from you. It is shown once and valid for 7 days. Because you
      have seen it, you are not a second person to {{ name }}.
    </p>
    <p class="link">{{ link }}</p>
  </el-dialog>
</template>

<style scoped>
.link {
  overflow-wrap: anywhere;
}
</style>
