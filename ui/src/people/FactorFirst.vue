<script setup lang="ts">
import { loadSession, signOut } from '@/shared/session'
import OneTimeCodes from './OneTimeCodes.vue'

/** Before everything else, for whoever holds a role that requires one-time codes and has none. */
</script>

<template>
  <div class="factor">
    <h1>Set up one-time codes</h1>
    <p class="quiet">One of your roles requires them. Set them up with an authenticator app, then continue.</p>
    <OneTimeCodes @set-up="loadSession()" />
    <p><el-button @click="signOut()">Sign out</el-button></p>
  </div>
</template>

<style scoped>
.factor {
  max-width: 460px;
}
h1 {
  font-size: 22px;
  margin: 0;
}
</style>
