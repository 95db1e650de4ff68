<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { PlannedTransition, Side } from '../../api/types'
import { useCanvas, type Surface } from '../../composables/page/useCanvas'
import { useCurves } from '../../composables/transition/useCurves'
import { useSides } from '../../composables/transition/useSides'
import type { TransitionSide } from '../../time/transitionSide'
import { drawSeam } from '../../drawing/seam'
import { leftOutOf, seamSideOf, spanOf } from '../../drawing/seamSide'
import { useMix } from '../../stores/mix'
import { useTokens } from '../../theme/tokens'

/** Beats that are drawn on both sides of the overlap. */
const AROUND = 16

/** Both ends of a transition in small, as they meet; a click plays it from there. */
const props = defineProps<{ planned: PlannedTransition; label: string; playhead?: number }>()
const emit = defineEmits<{ listen: [seconds: number] }>()

const mix = useMix()
const tokens = useTokens()
const { curveOf } = useCurves()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { axis, outgoing, incoming } = useSides(
  computed(() => mix.plan?.entries[props.planned.index]),
  computed(() => mix.plan?.entries[props.planned.index + 1]),
  computed(() => props.planned),
  computed(() => mix.clocks),
)
const { width } = useCanvas(canvas, draw)
const start = computed(() => axis.value?.beatAt(props.planned.start_s) ?? props.planned.start_beat)
const end = computed(() => axis.value?.beatAt(props.planned.end_s) ?? props.planned.end_beat)
const from = computed(() => start.value - AROUND)
const perBeat = computed(() => Math.max(1, width.value) / (end.value - start.value + 2 * AROUND))
const headX = computed(() => {
  if (props.playhead === undefined || !axis.value) return undefined
  const x = (axis.value.beatAt(props.playhead) - from.value) * perBeat.value
  return x >= 0 && x <= width.value ? x : undefined
})

function sideOf(side: TransitionSide, name: Side) {
  const t = props.planned.transition
  return seamSideOf(side, name, perBeat.value, {
    volume: curveOf(t, name, 'volume'),
    law: t.volume_law,
    span: spanOf(t.kind, name, start.value, end.value, t.lead),
    leftOut: axis.value && leftOutOf(props.planned, name, axis.value),
  })
}

function draw({ context, width: wide, height, ratio }: Surface) {
  if (!outgoing.value || !incoming.value) return
  drawSeam(context, wide, height, ratio, {
    from: from.value,
    perBeat: perBeat.value,
    outgoing: sideOf(outgoing.value, 'outgoing'),
    incoming: sideOf(incoming.value, 'incoming'),
    tokens: tokens.value,
  })
}

function go(event: MouseEvent) {
  const left = (event.currentTarget as HTMLElement).getBoundingClientRect().left
  const x = event.detail ? event.clientX - left : 0
  if (axis.value) emit('listen', Math.max(0, axis.value.timeAt(from.value + x / perBeat.value)))
}
</script>

<template>
  <button type="button" class="seam" :aria-label="label" title="Click to hear it from there" @click="go">
    <canvas ref="canvas" />
    <span v-if="headX !== undefined" class="head" :style="{ left: `${headX}px` }" />
  </button>
</template>

<style scoped>
.seam {
  position: relative;
  width: 100%;
  height: 36px;
  padding: 0;
  overflow: hidden;
  border: 0;
  border-radius: 3px;
  background: var(--sheet);
  cursor: pointer;
}

.seam:hover {
  box-shadow: 0 0 0 1px var(--fern);
}

canvas {
  display: block;
  width: 100%;
  height: 100%;
}

.head {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1.5px;
  background: var(--ink);
}
</style>
