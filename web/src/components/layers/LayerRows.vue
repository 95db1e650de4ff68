<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Layer, PlannedLayer } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'
import { useResting } from '../../composables/page/useResting'
import type { Layers } from '../../composables/layers/useLayers'
import { useMix } from '../../stores/mix'
import { clockTenths } from '../../time/format'
import { lengthenedBy, movedBy } from '../../time/layers'

const ROW = 20

/** The layers of a mix as thin rows over a picture of it, to be moved, lengthened and chosen. */
const props = defineProps<{
  layers: Layers
  /** Pixels of a moment of the mix, and the moment at a pixel. */
  xOf: (seconds: number) => number
  secondsOf: (x: number) => number
  width: number
  chosen?: string
  /** Beats on which they snap; 0 is free. */
  unit: number
}>()
const emit = defineEmits<{ choose: [id: string] }>()
const mix = useMix()

/** Where one that is dragged lies meanwhile, in pixels. */
const draft = ref<{ id: string; left: number; right: number; layer: Layer }>()
watch(
  () => mix.mix?.version,
  () => (draft.value = undefined),
)

/** One that is moved by keys, as it is to be. */
const pressed = useResting<Layer>()

/** How far the ends of a layer are shown from where they lie, in pixels. */
function shiftOf(planned: PlannedLayer): { left: number; right: number } {
  if (draft.value?.id === planned.layer.id) return draft.value
  const wanted = pressed.draft.value
  const clock = clockOf(planned)
  if (wanted?.id !== planned.layer.id || !clock) return { left: 0, right: 0 }
  const start = clock.timeAt(planned.start_beat + wanted.at.beat - planned.layer.at.beat)
  const by = props.xOf(start) - props.xOf(planned.start_s)
  return { left: by, right: by }
}

const bars = computed(() =>
  props.layers.heard.value
    .map((planned) => {
      const moved = shiftOf(planned)
      const left = props.xOf(planned.start_s) + moved.left
      const right = props.xOf(planned.end_s) + moved.right
      const width = Math.max(6, right - left)
      const blocks = planned.heard.map((h) => ({
        left: props.xOf(h.start_s) - props.xOf(planned.start_s),
        width: Math.max(3, props.xOf(h.end_s) - props.xOf(h.start_s)),
      }))
      const row = props.layers.rows.value.rows.get(planned.layer.id) ?? 0
      return { planned, left, width, blocks: moved.left === moved.right ? blocks : [{ left: 0, width }], row }
    })
    .filter((b) => b.left < props.width && b.left + b.width > 0),
)
const clockOf = (planned: PlannedLayer) => mix.clocks[planned.clock]
const textOf = (planned: PlannedLayer) =>
  `${planned.words}, ${clockTenths(planned.start_s)} to ${clockTenths(planned.end_s)}`

function beatsOf(planned: PlannedLayer, dx: number): number {
  const clock = clockOf(planned)!
  const edge = planned.leads_up ? planned.start_s : planned.end_s
  return clock.beatAt(props.secondsOf(props.xOf(edge) + dx)) - clock.beatAt(edge)
}

function secondsBy(planned: PlannedLayer, dx: number): number {
  return props.secondsOf(props.xOf(planned.start_s) + dx) - planned.start_s
}

const drop = () => {
  if (draft.value) void props.layers.put(draft.value.layer).then((done) => done || (draft.value = undefined))
}

function drag(event: PointerEvent, planned: PlannedLayer) {
  const clock = clockOf(planned)
  if (!clock) return
  const { id } = planned.layer
  emit('choose', id)
  startDrag(event, {
    move: (dx, _, at) => {
      const layer = movedBy(planned, clock, secondsBy(planned, dx), at.altKey ? 0 : props.unit)
      const start = clock.timeAt(planned.start_beat + layer.at.beat - planned.layer.at.beat)
      const by = props.xOf(start) - props.xOf(planned.start_s)
      draft.value = { id, left: by, right: by, layer }
    },
    drop,
  })
}

function dragEnd(event: PointerEvent, planned: PlannedLayer) {
  const clock = clockOf(planned)
  if (!clock) return
  const up = planned.leads_up
  const { id } = planned.layer
  emit('choose', id)
  startDrag(event, {
    move: (dx, _, at) => {
      const beats = beatsOf(planned, dx)
      const layer = lengthenedBy(planned.layer, up ? -beats : beats, at.altKey ? 0 : props.unit)
      draft.value = { id, left: up ? dx : 0, right: up ? 0 : dx, layer }
    },
    drop,
  })
}

/** Move a layer by keys, from where the presses before this one have brought it. */
function move(layer: Layer, how: (was: Layer) => Layer) {
  const isSame = pressed.draft.value?.id === layer.id
  if (!isSame) void pressed.leave()
  const wanted = how(isSame ? pressed.draft.value! : layer)
  pressed.put(wanted, () => props.layers.put(wanted))
}

function key(event: KeyboardEvent, planned: PlannedLayer) {
  const step = (props.unit || 1) * (event.shiftKey ? 4 : 1)
  const { layer } = planned
  const by = { ArrowLeft: -step, ArrowRight: step }[event.key]
  const acts: Record<string, () => unknown> = {
    Delete: () => (void pressed.flush(), props.layers.remove(layer.id)),
    Enter: () => emit('choose', layer.id),
  }
  if (by !== undefined)
    move(layer, (was) =>
      event.ctrlKey
        ? lengthenedBy(was, by, props.unit)
        : { ...was, at: { ...was.at, beat: was.at.beat + by } },
    )
  else if (acts[event.key]) void acts[event.key]!()
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div class="rows" :style="{ height: `${Math.max(1, layers.rows.value.count) * ROW}px` }">
    <div
      v-for="bar in bars"
      :key="bar.planned.layer.id"
      class="layer"
      :class="{ chosen: bar.planned.layer.id === chosen, off: !bar.planned.layer.on }"
      :style="{ left: `${bar.left}px`, width: `${bar.width}px`, top: `${bar.row * ROW + 1}px` }"
      role="slider"
      tabindex="0"
      :aria-label="`Layer: ${bar.planned.words}`"
      :aria-valuenow="bar.planned.layer.at.beat"
      :aria-valuetext="textOf(bar.planned)"
      :title="`${textOf(bar.planned)}\nDrag to move, at its end to make it longer; arrows too, with Ctrl its length`"
      @pointerdown="(e) => drag(e, bar.planned)"
      @focus="emit('choose', bar.planned.layer.id)"
      @keydown="(e) => key(e, bar.planned)"
    >
      <span
        v-for="(block, i) in bar.blocks"
        :key="i"
        class="block"
        :style="{ left: `${block.left}px`, width: `${block.width}px` }"
      />
      <span class="name clip" :class="{ beside: bar.width < 70 }">{{ bar.planned.words }}</span>
      <span
        class="end"
        :class="{ up: bar.planned.leads_up }"
        aria-hidden="true"
        @pointerdown.stop="(e) => dragEnd(e, bar.planned)"
      />
    </div>
  </div>
</template>

<style scoped>
.rows {
  position: relative;
  overflow: hidden;
  background: var(--sunken);
  touch-action: none;
}

.layer {
  position: absolute;
  height: 18px;
  border-bottom: 1px dotted var(--line-strong);
  cursor: grab;
}

.block {
  position: absolute;
  top: 0;
  bottom: 0;
  border: 1px solid var(--ink-soft);
  border-radius: 3px;
  background: var(--sheet);
}

.chosen .block {
  border-color: var(--fern);
  background: var(--fern-soft);
  box-shadow: inset 0 0 0 1px var(--fern);
}

.off .block {
  border-style: dashed;
  opacity: 0.55;
}

.name {
  position: absolute;
  left: 5px;
  right: 8px;
  font-size: 12px;
  line-height: 18px;
  pointer-events: none;
}

.name.beside {
  right: auto;
  left: calc(100% + 5px);
  overflow: visible;
  color: var(--ink-soft);
}

.end {
  position: absolute;
  top: 0;
  bottom: 0;
  right: -3px;
  width: 8px;
  cursor: col-resize;
}

.end.up {
  right: auto;
  left: -3px;
}
</style>
