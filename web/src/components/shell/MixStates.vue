<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { useRoute } from 'vue-router'
import { useMix } from '../../stores/mix'

const mix = useMix()
const route = useRoute()
</script>

<template>
  <div v-if="mix.missing" class="note">
    <h2>That mix is not there any more</h2>
    <p>
      It was deleted, perhaps in another tab. <RouterLink :to="{ name: 'start' }">See all mixes</RouterLink>
    </p>
  </div>
  <div v-else-if="mix.failure" class="note" role="alert">
    <h2>The mix could not be opened</h2>
    <p>{{ mix.failure }}</p>
    <Button @click="mix.open(String(route.params.mix))">Try again</Button>
  </div>
  <div v-else-if="!mix.mix" class="note">
    <Spin tip="Opening the mix"><div style="height: 60px" /></Spin>
  </div>
  <slot v-else />
</template>

<style scoped>
.note {
  max-width: 460px;
  margin: 16vh auto;
  text-align: center;
}
</style>
