<script setup lang="ts">
import type { Entry } from '../../../api/types'
import FoldSection from '../../shared/FoldSection.vue'
import StemsState from '../../shared/StemsState.vue'

/** The stems of both sides: there they are made, in the lanes they are turned. */
defineProps<{ outgoing: Entry; incoming: Entry }>()
</script>

<template>
  <FoldSection name="stems" title="Stems" summary="drums, bass, voice, music">
    <p class="soft about">Once its stems are split, a track has a lane for each: ‘+ lane’, or A.</p>
    <StemsState :entry="outgoing" />
    <StemsState v-if="incoming.track_id !== outgoing.track_id" :entry="incoming" />
  </FoldSection>
</template>

<style scoped>
.about {
  margin: 0 0 6px;
  font-size: 12px;
}
</style>
