<script setup lang="ts">
import { ref } from 'vue'
import type { Layer, LayerProposal } from '../../api/types'
import { useLayerProposals, type Layers } from '../../composables/layers/useLayers'
import { useTrials } from '../../composables/mix/useTrials'
import { newId } from '../../time/cues'
import FoldSection from '../shared/FoldSection.vue'
import HearOrUse from '../shared/HearOrUse.vue'

/** Beats that are heard before and after. */
const AROUND = 8

/** Layers that would help, each with its reason: heard first, then taken. */
const { layers } = defineProps<{ layers: Layers }>()
const emit = defineEmits<{ laid: [id: string] }>()
const trials = useTrials()
const { data: proposals, error } = useLayerProposals(ref(true))

const hear = ({ layer }: LayerProposal) =>
  trials.hearLayer({ kind: 'put_layers', layers: [layer] }, layer.id, AROUND)

async function take({ layer }: LayerProposal) {
  const mine: Layer = { ...layer, id: newId() }
  if (await layers.put(mine)) emit('laid', mine.id)
}
</script>

<template>
  <FoldSection
    name="layer-proposals"
    title="Suggestions"
    :summary="proposals?.length ? `${proposals.length} proposed` : 'nothing'"
    starts-open
  >
    <p v-if="error" class="soft">{{ error.message }}</p>
    <ol v-else-if="proposals?.length" aria-label="Proposed layers">
      <li v-for="(proposal, i) in proposals" :key="proposal.layer.id">
        <span
          >{{ proposal.words }}<br /><span class="soft">{{ proposal.reason }}</span></span
        >
        <HearOrUse :name="`proposal ${i + 1}`" @hear="hear(proposal)" @use="take(proposal)" />
      </li>
    </ol>
    <p v-else class="soft">
      No long break, no stretch without voice before a track that has its stems, no rise into a drop.
    </p>
  </FoldSection>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 1fr max-content max-content;
  align-items: center;
  gap: 5px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
  font-size: 12.5px;
  line-height: 1.3;
}

p {
  margin: 0;
  font-size: 12.5px;
}
</style>
