<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { startDrag } from '../../composables/page/useDrag'
import { useCourse } from '../../composables/mix/useCourse'
import { COURSE_COLUMNS, useWarnings } from '../../composables/mix/useWarnings'
import { useCanvas } from '../../composables/page/useCanvas'
import { drawCourse, PROFILE_HEIGHT, tempoScale } from '../../drawing/course'
import { useMix } from '../../stores/mix'
import { useTokens } from '../../theme/tokens'
import { bpm, clockTime } from '../../time/format'
import TempoPoints from './TempoPoints.vue'

const props = defineProps<{
  /** The transition that is looked at. */
  chosen: number | undefined
  /** Others that are chosen beside it. */
  others?: ReadonlySet<number>
  playhead: number | undefined
  /** The entry that is looked at, where it is entries that are chosen. */
  entry?: number
  /** The layer that is looked at. */
  layer?: string
  /** Where layers are looked for, a click shows what lies there. */
  looksForLayers?: boolean
}>()
const emit = defineEmits<{
  choose: [index: number, how: { add: boolean; range: boolean }]
  listen: [seconds: number]
  look: [seconds: number]
  /** A span of the entry that is looked at. */
  select: [from: number, to: number]
}>()

const mix = useMix()
const warnings = useWarnings()
const tokens = useTokens()
const box = useTemplateRef<HTMLElement>('box')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(box)
const { data: course } = useCourse(
  computed(() => mix.mix?.id),
  computed(() => mix.mix?.version),
  COURSE_COLUMNS,
)

useCanvas(canvas, ({ context, width: w, height: h }) => {
  if (mix.plan && mix.clock && course.value)
    drawCourse(context, w, h, mix.plan, course.value, mix.clock, tokens.value)
})

const hint = computed(() =>
  props.entry === undefined
    ? 'Click: go there, with shift or Ctrl to several transitions. Double click: hear the mix from there'
    : 'Click: choose a track. Drag within the chosen one: a span of it. Double click: hear the mix from there',
)
const seconds = computed(() => mix.plan?.duration_s || 1)
const xOf = (time: number) => (time / seconds.value) * width.value
const scale = computed(() => (mix.plan?.entries.length ? tempoScale(mix.plan) : undefined))
const marks = computed(() =>
  (mix.plan?.transitions ?? []).map((t) => ({
    index: t.index,
    x: xOf(t.start_s),
    width: Math.max(8, xOf(t.end_s) - xOf(t.start_s)),
    label: `Transition ${t.index + 1}: ${mix.plan!.entries[t.index]!.title} into ${mix.plan!.entries[t.index + 1]!.title}, at ${clockTime(t.start_s)}`,
    warnings: warnings.value.filter((s) => s.transition === t.index && !s.is_meant),
  })),
)
const entryMark = computed(() => {
  const e = props.entry === undefined ? undefined : mix.plan?.entries[props.entry]
  return e && { left: `${xOf(e.start_s)}px`, width: `${xOf(e.end_s) - xOf(e.start_s)}px` }
})
/** What is laid over the mix, as thin lines at its upper edge. */
const layerMarks = computed(() =>
  (mix.plan?.layers ?? [])
    .filter((x) => !x.waits)
    .map(({ layer, words, start_s, end_s }) => ({
      id: layer.id,
      isOn: layer.on,
      x: xOf(start_s),
      width: Math.max(4, xOf(end_s) - xOf(start_s)),
      label: `Layer: ${words}, at ${clockTime(start_s)}`,
    })),
)
const tempi = computed(() => {
  const all = mix.plan?.clocks[0]?.tempo.map(([, tempo]) => tempo) ?? []
  const low = Math.min(...all)
  const high = Math.max(...all)
  return low === high ? `${bpm(low)} BPM` : `${bpm(low)}–${bpm(high)} BPM`
})

function timeOf(event: MouseEvent) {
  const left = box.value!.getBoundingClientRect().left
  return ((event.clientX - left) / width.value) * seconds.value
}

/** Where entries are looked at, a drag within the one that is chosen selects a span of it. */
const sketch = ref<{ from: number; to: number }>()
function press(event: PointerEvent) {
  const e = props.entry === undefined ? undefined : mix.plan?.entries[props.entry]
  const from = timeOf(event)
  if (!e || from < e.start_s || from > e.end_s) return
  const within = (s: number) => Math.min(Math.max(s, e.start_s), e.end_s)
  startDrag(event, {
    move: (_dx, _dy, at) => {
      const to = within(timeOf(at))
      sketch.value = { from: Math.min(from, to), to: Math.max(from, to) }
    },
    drop: () => {
      if (sketch.value) emit('select', sketch.value.from, sketch.value.to)
      // The click that ends a drag chooses nothing.
      setTimeout(() => (sketch.value = undefined))
    },
  })
}

/** With shift up to there, with control one more. */
const how = (event: MouseEvent) => ({ add: event.ctrlKey || event.metaKey, range: event.shiftKey })

/** Go to the transition nearest to where was clicked. */
function go(event: MouseEvent) {
  if (sketch.value) return
  const time = timeOf(event)
  if (props.looksForLayers) return emit('look', time)
  if (props.entry !== undefined) {
    const here = mix.plan?.entries.filter((e) => e.start_s <= time && time < e.end_s) ?? []
    if (here.length) emit('choose', here[here.length - 1]!.index, how(event))
    return
  }
  const distance = (t: { start_s: number; end_s: number }) => Math.max(t.start_s - time, time - t.end_s, 0)
  const nearest = [...(mix.plan?.transitions ?? [])].sort((a, b) => distance(a) - distance(b))[0]
  if (nearest) emit('choose', nearest.index, how(event))
}
</script>

<template>
  <div class="course">
    <span class="tempi faint">{{ tempi }}</span>
    <div
      ref="box"
      class="box"
      :title="hint"
      @click="go"
      @pointerdown="press"
      @dblclick="(e) => emit('listen', timeOf(e))"
    >
      <canvas ref="canvas" />
      <TempoPoints
        v-if="scale && mix.clock"
        :width="width"
        :height="PROFILE_HEIGHT"
        :x-of="(beat) => xOf(mix.clock!.timeAt(beat))"
        :beat-of="(x) => mix.clock!.beatAt((x / width) * seconds)"
        :y-of="scale.yOf"
        :bpm-of="scale.bpmOf"
        :line-at="(beat) => mix.clock!.bpmAt(beat)"
      />
      <span v-if="entryMark" class="mark chosen" :style="entryMark" />
      <span
        v-if="sketch"
        class="sketch"
        :style="{ left: `${xOf(sketch.from)}px`, width: `${xOf(sketch.to) - xOf(sketch.from)}px` }"
      />
      <button
        v-for="mark in entry === undefined && !looksForLayers ? marks : []"
        :key="mark.index"
        type="button"
        class="mark"
        :class="{ chosen: mark.index === props.chosen, other: props.others?.has(mark.index) }"
        :style="{ left: `${mark.x}px`, width: `${mark.width}px` }"
        :aria-label="mark.label"
        :aria-pressed="mark.index === props.chosen || !!props.others?.has(mark.index)"
        :title="[mark.label, ...mark.warnings.map((s) => s.message)].join('\n')"
        @click.stop="(e: MouseEvent) => emit('choose', mark.index, how(e))"
      >
        <span v-if="mark.warnings.length" class="flag" aria-label="has a warning" />
      </button>
      <RouterLink
        v-for="mark in layerMarks"
        :key="mark.id"
        class="layer"
        :class="{ here: mark.id === layer, off: !mark.isOn }"
        :style="{ left: `${mark.x}px`, width: `${mark.width}px` }"
        :to="{ name: 'layers', params: { mix: mix.mix!.id, layer: mark.id } }"
        :aria-label="mark.label"
        :title="mark.label"
        @click.stop
      />
      <span v-if="playhead !== undefined" class="playhead" :style="{ left: `${xOf(playhead)}px` }" />
    </div>
  </div>
</template>

<style scoped>
.course {
  display: grid;
  grid-template-columns: 58px 1fr;
  height: 90px;
  padding: 6px 12px 6px 0;
}

.tempi {
  padding-right: 8px;
  font-size: 11px;
  line-height: 1.2;
  text-align: right;
}

.box {
  position: relative;
  cursor: pointer;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.mark {
  position: absolute;
  top: 22px;
  bottom: 0;
  padding: 0;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  cursor: pointer;
}

.mark:hover {
  border-color: var(--line-strong);
}

.mark.chosen {
  border: 2px solid var(--fern);
  background: color-mix(in srgb, var(--fern) 12%, transparent);
}

.mark.other {
  border: 2px dashed var(--fern);
}

.sketch {
  position: absolute;
  top: 22px;
  bottom: 0;
  background: color-mix(in srgb, var(--fern) 30%, transparent);
  pointer-events: none;
}

.layer {
  position: absolute;
  top: 22px;
  height: 7px;
  border: 1px solid var(--sheet);
  border-radius: 3px;
  background: var(--ink-soft);
}

.layer:hover,
.layer.here {
  background: var(--fern);
}

.layer.off {
  opacity: 0.4;
}

.flag {
  position: absolute;
  top: -9px;
  left: 0;
  border: 5px solid transparent;
  border-left: 8px solid var(--warn);
}
</style>
