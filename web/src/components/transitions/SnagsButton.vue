<script setup lang="ts">
import { Button, Drawer } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useSnags } from '../../composables/useSnags'
import SnagList from '../shared/SnagList.vue'

/** How many things of the whole mix are to be looked at, and the list of them. */
const all = useSnags()
const open = ref(false)
const left = computed(() => all.value.filter((s) => !s.is_meant).length)
</script>

<template>
  <Button v-if="all.length" size="small" class="snags-button" @click="open = true"
    >{{ left || 'no' }} {{ left === 1 ? 'snag' : 'snags' }}{{ left ? '' : ' left' }}</Button
  >
  <Drawer v-model:open="open" title="Snags of this mix" :width="420">
    <p class="soft">
      Each goes to its place, offers what would mend it, and can be left as it is when it is meant.
    </p>
    <SnagList :snags="all" places @went="open = false" />
  </Drawer>
</template>
