<template>
  <main class="nothere">
    <h1>There is nothing at this address</h1>
    <p class="quiet">It may have moved, or lie outside your remit. <RouterLink to="/">Go to Today</RouterLink>.</p>
  </main>
</template>
<style scoped>
.nothere {
  padding: 60px 40px;
}
</style>
