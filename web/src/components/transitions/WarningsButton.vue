<script setup lang="ts">
import { Button, Drawer } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useWarnings } from '../../composables/mix/useWarnings'
import WarningList from '../shared/WarningList.vue'

/** How many things of the whole mix are to be looked at, and the list of them. */
const all = useWarnings()
const open = ref(false)
const left = computed(() => all.value.filter((s) => !s.is_meant).length)
</script>

<template>
  <Button v-if="all.length" size="small" class="warnings-button" @click="open = true"
    >{{ left || 'no' }} {{ left === 1 ? 'warning' : 'warnings' }}{{ left ? '' : ' left' }}</Button
  >
  <Drawer v-model:open="open" title="Warnings of this mix" :width="420">
    <p class="soft">Click a warning to go there. Use a suggested fix, or ignore it.</p>
    <WarningList :warnings="all" places @went="open = false" />
  </Drawer>
</template>
