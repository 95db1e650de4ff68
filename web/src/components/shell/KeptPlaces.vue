<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useMix } from '../../stores/mix'

/** Says once that transitions which nobody shaped lie where they lay, though they would be placed otherwise now. */
const mix = useMix()

const names = computed(() =>
  (mix.mix?.kept ?? []).map((index) =>
    mix
      .plan!.entries.slice(index, index + 2)
      .map((e) => e.title)
      .join(' → '),
  ),
)
const several = computed(() => names.value.length > 1)
</script>

<template>
  <section v-if="names.length" class="kept" role="status" aria-label="Transitions that stayed">
    <span :title="names.join('\n')">
      {{ several ? `${names.length} transitions` : names[0] }}
      stayed in place. Fernbrook would place {{ several ? 'them' : 'it' }} differently now.
    </span>
    <Button size="small" @click="mix.send({ kind: 'settle_places', again: true })"> Place again </Button>
    <Button size="small" type="text" @click="mix.send({ kind: 'settle_places', again: false })">
      Leave in place
    </Button>
  </section>
</template>

<style scoped>
.kept {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 18px;
  background: var(--fern-soft);
  border-bottom: 1px solid var(--line);
}

.kept > span {
  min-width: 0;
}
</style>
