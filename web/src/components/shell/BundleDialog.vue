<script setup lang="ts">
import { Modal, Progress } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { ArrivingTrack } from '../../api/types'
import { useBundleOpening } from '../../composables/export/useBundles'
import { megabytes } from '../../time/format'
import FacetCompare from '../shared/FacetCompare.vue'

/** What is in a bundle that was brought here, what of it is here already, and what to do where the two differ. */
const router = useRouter()
const { arrived, bringing, share, open, leave } = useBundleOpening()
const theirs = ref<string[]>([])
const looked = ref<string>()

const WORDS: Record<ArrivingTrack['arrival'], string> = {
  new: 'new',
  same: 'here already',
  differs: 'here, marked otherwise',
  missing: 'its music is not here',
}
const differing = computed(() => arrived.value?.tracks.filter((t) => t.arrival === 'differs') ?? [])
const missing = computed(() => arrived.value?.tracks.filter((t) => t.arrival === 'missing').length ?? 0)
const when = computed(
  () =>
  arrived.value ? new Date(arrived.value.made_at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' }) : '', // prettier-ignore
)
watch(arrived, () => {
  theirs.value = []
  looked.value = undefined
})

async function go() {
  const mix = await open(theirs.value)
  if (mix) await router.push({ name: 'transitions', params: { mix } })
}
</script>

<template>
  <Modal :open="bringing" title="Reading the bundle …" :footer="null" :closable="false">
    <Progress :percent="99" status="active" :show-info="false" />
  </Modal>
  <Modal
    :open="!!arrived"
    :title="`Open ‘${arrived?.name}’`"
    width="720px"
    ok-text="Open the mix"
    :confirm-loading="share !== undefined"
    :mask-closable="false"
    @ok="go"
    @cancel="leave"
  >
    <template v-if="arrived">
      <p class="soft">
        Packed {{ when }}{{ arrived.states > 1 ? `, with ${arrived.states} states of its past` : '' }}.
        {{ arrived.needs ? `It brings ${megabytes(arrived.needs)} of music.` : 'It brings no new music.' }}
        Nothing that is here is overwritten.
      </p>
      <p v-if="missing" class="warn">
        The music of {{ missing }} {{ missing === 1 ? 'track is' : 'tracks are' }} neither here nor in the
        bundle. Import it afterwards: it is found again by its content.
      </p>
      <ol>
        <li v-for="t in arrived.tracks" :key="t.id">
          <span class="clip">{{ t.artist ? `${t.artist} – ` : '' }}{{ t.title }}</span>
          <span class="soft">{{ WORDS[t.arrival] }}</span>
          <template v-if="t.arrival === 'differs'">
            <label><input v-model="theirs" type="checkbox" :value="t.id" /> take the bundle’s</label>
            <button type="button" class="link" @click="looked = looked === t.id ? undefined : t.id">
              {{ looked === t.id ? 'hide' : 'compare' }}
            </button>
            <FacetCompare
              v-if="looked === t.id"
              class="compare"
              :parts="t.parts"
              there="In the bundle"
              only-shown
            />
          </template>
        </li>
      </ol>
      <p v-if="differing.length" class="soft">
        What you do not take stays as it is here; the mix keeps its place on the music either way.
      </p>
      <Progress v-if="share !== undefined" :percent="Math.floor(share * 100)" aria-label="Opening" />
    </template>
  </Modal>
</template>

<style scoped>
ol {
  max-height: 320px;
  margin: 0;
  padding: 0;
  overflow-y: auto;
}

li {
  display: grid;
  grid-template-columns: 1fr max-content max-content max-content;
  gap: 4px 14px;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}

.compare {
  grid-column: 1 / -1;
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
