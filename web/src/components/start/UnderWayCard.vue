<script setup lang="ts">
import { Progress } from 'ant-design-vue'
import { useUnderWay } from '../../composables/page/useUnderWay'

/** What is being made meanwhile, and how far it is. */
const { data: now } = useUnderWay()
</script>

<template>
  <section v-if="now" class="card" :aria-label="now.words">
    <p v-if="now.error" class="bad" role="alert">{{ now.words }}. {{ now.error }}</p>
    <template v-else>
      <p>
        {{ now.words }}.
        <span class="soft"
          >Its tracks appear in <RouterLink :to="{ name: 'tracks' }">Tracks</RouterLink>, one after the other.
          The mix appears here when all of them are analysed.</span
        >
      </p>
      <Progress size="small" :percent="Math.floor(now.share * 100)" :aria-label="now.words" />
    </template>
  </section>
</template>

<style scoped>
.card {
  margin-bottom: 16px;
  padding: 12px 16px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

p {
  margin: 0;
}

a {
  color: var(--fern);
}
</style>
