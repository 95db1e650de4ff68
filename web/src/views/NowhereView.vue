<template>
  <section class="nowhere">
    <h1>There is nothing at this address</h1>
    <p><RouterLink :to="{ name: 'start' }">Go to the mixes</RouterLink></p>
  </section>
</template>

<style scoped>
.nowhere {
  padding: 60px;
}
</style>
