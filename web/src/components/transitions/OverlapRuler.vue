<script setup lang="ts">
/** The bar numbers of the outgoing track, and on them the overlap as a green bar that can be moved. */
const props = defineProps<{
  marks: { beat: number; x: number; text: string }[]
  /** Pixels of the overlap's edges. */
  startX: number
  endX: number
  width: number
  isCut: boolean
  /** How long it is, in words. */
  text: string
  /** The beat of the outgoing at which it starts, and that in words. */
  at: number
  atText: string
}>()
const emit = defineEmits<{ press: [event: PointerEvent]; key: [event: KeyboardEvent] }>()

const LABEL_HALF = 48
const CUT_WIDTH = 44

/** A number on the green bar is drawn light, and left out where the bar's own words stand. */
const isInside = (x: number) => !props.isCut && x >= props.startX && x < props.endX - 12
const isUnderLabel = (x: number) => Math.abs(x + 10 - (props.startX + props.endX) / 2) < LABEL_HALF
</script>

<template>
  <svg class="ruler" :width="width" height="24">
    <g
      class="body"
      role="slider"
      tabindex="0"
      aria-label="Overlap"
      :aria-valuenow="at"
      :aria-valuetext="atText"
      @pointerdown="(e) => emit('press', e)"
      @keydown="(e) => emit('key', e)"
    >
      <rect
        :x="isCut ? startX - CUT_WIDTH / 2 : startX"
        y="3"
        :width="isCut ? CUT_WIDTH : Math.max(4, endX - startX)"
        height="18"
        rx="4"
      />
      <text :x="(startX + endX) / 2" y="16">{{ text }}</text>
    </g>
    <g v-for="mark in marks" :key="mark.beat" class="mark" :class="{ inside: isInside(mark.x) }">
      <text v-if="!isUnderLabel(mark.x)" :x="mark.x + 4" y="16">{{ mark.text }}</text>
    </g>
  </svg>
</template>

<style scoped>
.ruler {
  display: block;
  flex: none;
  background: var(--sunken);
}

.mark {
  pointer-events: none;
}

.mark text {
  fill: var(--ink-soft);
  font-size: 12px;
}

.mark.inside text {
  fill: var(--sheet);
  opacity: 0.75;
}

.body {
  cursor: grab;
}

.body rect {
  fill: var(--fern);
}

.body text {
  fill: var(--sheet);
  font-size: 12px;
  font-weight: 600;
  text-anchor: middle;
  pointer-events: none;
}
</style>
