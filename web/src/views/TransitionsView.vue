<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import MixStates from '../components/shell/MixStates.vue'
import TransitionBench from '../components/transitions/TransitionBench.vue'
import { useMixPlace } from '../composables/mix/useMixPlace'
import { useSides } from '../composables/transition/useSides'
import type { ShownTransition } from '../composables/transition/useTransition'
import { useFresh } from '../stores/fresh'
import { useMix } from '../stores/mix'

const route = useRoute()
const router = useRouter()
const mix = useMix()
const fresh = useFresh()

const count = computed(() => mix.plan?.transitions.length ?? 0)
const index = computed(() =>
  Math.min(Math.max(Number(route.params.number || 1) - 1, 0), Math.max(0, count.value - 1)),
)
useMixPlace(
  computed(() => (count.value ? mix.mix?.id : undefined)),
  index,
)
const planned = computed(() => mix.plan?.transitions[index.value])
const { axis, outgoing, incoming } = useSides(
  computed(() => mix.plan?.entries[index.value]),
  computed(() => mix.plan?.entries[index.value + 1]),
  planned,
  computed(() => mix.clocks),
)
/** Transitions that are chosen beside the one that is looked at, for what can be done to several. */
const others = ref<ReadonlySet<number>>(new Set())

const shown = computed<ShownTransition | undefined>(() => {
  const sides = {
    planned: planned.value,
    axis: axis.value,
    outgoing: outgoing.value,
    incoming: incoming.value,
  }
  const isThere = Object.values(sides).every((part) => part !== undefined)
  const several = [index.value, ...others.value].sort((a, b) => a - b)
  return isThere ? ({ ...sides, several } as ShownTransition) : undefined
})

function choose(next: number, how = { add: false, range: false }) {
  if (next < 0 || next >= count.value) return
  const between = [...Array(Math.abs(next - index.value)).keys()]
  others.value = new Set(
    how.range
      ? between.map((i) => i + Math.min(next + 1, index.value))
      : how.add
        ? [...others.value, index.value].filter((i) => i !== next)
        : [],
  )
  void router.replace({ params: { ...route.params, number: next + 1 } })
}

/** A new transition that somebody has come to is new no more; the others wait. */
watch([index, () => fresh.places], () => fresh.places.includes(index.value) && fresh.seen(index.value), {
  immediate: true,
})
</script>

<template>
  <MixStates>
    <div v-if="!shown" class="few">
      <h2>A transition needs two tracks</h2>
      <p>
        This mix has {{ mix.plan?.entries.length === 1 ? 'one' : 'none' }} so far. Put tracks into the
        <RouterLink :to="{ name: 'order', params: route.params }">running order</RouterLink>; each pair of
        neighbours gets a transition that works as it is.
      </p>
    </div>
    <TransitionBench v-else :shown="shown" :others="others" @choose="choose" />
  </MixStates>
</template>
