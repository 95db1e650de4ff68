<script setup lang="ts">
import { useRouter } from 'vue-router'

/** The line above the tracks while none is chosen: which list is open, which grids to look at, what fits. */
defineProps<{ listName: string | undefined; ownOrder: boolean; doubtful: number }>()
const emit = defineEmits<{ ownOrder: [] }>()
const fits = defineModel<boolean>('fits', { required: true })
const router = useRouter()
</script>

<template>
  <div class="strip soft">
    <span v-if="listName">The list ‘{{ listName }}’{{ ownOrder ? ', in its own order' : '' }}. </span>
    <button v-if="listName && !ownOrder" type="button" class="link" @click="emit('ownOrder')">
      In its own order
    </button>
    <button v-if="doubtful" type="button" class="link" @click="router.push({ name: 'grid' })">
      {{ doubtful }} with a doubtful grid
    </button>
    <span class="gap" />
    <button type="button" class="link" :aria-pressed="fits" @click="fits = !fits">What fits (W)</button>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 36px;
  padding: 0 14px;
  font-size: 13px;
}

.link {
  padding: 0;
  border: 0;
  background: none;
  color: var(--fern);
  font: inherit;
  cursor: pointer;
}
</style>
