<script setup lang="ts">
import { computed } from 'vue'
import type { Loop } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'

/** Loops as thin bands along the bottom, whose edges can be dragged. */
const props = defineProps<{
  loops: Loop[]
  xOf: (beat: number) => number
  chosen?: string
  movable?: boolean
}>()
const emit = defineEmits<{
  choose: [loop: Loop]
  edge: [loop: Loop, edge: 'start' | 'end', dx: number, free: boolean]
  drop: [loop: Loop]
}>()

const bands = computed(() =>
  props.loops.map((loop) => {
    const x = props.xOf(loop.start)
    return { loop, x, width: Math.max(2, props.xOf(loop.start + loop.beats) - x) }
  }),
)
const EDGES = ['start', 'end'] as const

function drag(event: PointerEvent, loop: Loop, edge: 'start' | 'end') {
  startDrag(event, {
    move: (dx, _, at) => emit('edge', loop, edge, dx, at.shiftKey),
    drop: () => emit('drop', loop),
    click: () => emit('choose', loop),
  })
}
</script>

<template>
  <div
    v-for="b in bands"
    :key="b.loop.id"
    class="band"
    :class="{ chosen: b.loop.id === chosen }"
    :style="{ left: `${b.x}px`, width: `${b.width}px` }"
    :title="b.loop.name || 'Loop'"
  >
    <template v-if="movable">
      <span
        v-for="edge in EDGES"
        :key="edge"
        class="edge"
        :class="edge"
        role="slider"
        tabindex="-1"
        :aria-label="`${edge === 'start' ? 'Start' : 'End'} of the loop`"
        :aria-valuenow="edge === 'start' ? b.loop.start : b.loop.start + b.loop.beats"
        @pointerdown="(e) => drag(e, b.loop, edge)"
      />
    </template>
  </div>
</template>

<style scoped>
.band {
  position: absolute;
  bottom: 0;
  height: 7px;
  border: solid var(--fern);
  border-width: 0 1.5px 2px;
  background: color-mix(in srgb, var(--fern) 22%, transparent);
}

.band.chosen {
  background: color-mix(in srgb, var(--fern) 55%, transparent);
}

.edge {
  position: absolute;
  bottom: -2px;
  width: 11px;
  height: 16px;
  cursor: ew-resize;
  pointer-events: auto;
  touch-action: none;
}

.edge.start {
  left: -6px;
}

.edge.end {
  right: -6px;
}
</style>
