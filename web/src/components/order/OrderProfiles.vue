<script setup lang="ts">
import { computed, ref } from 'vue'
import { bpm } from '../../time/format'
import { shareOf, type ProfilePoint, type Range } from '../../time/profile'

/** A tempo step by more than this is written beside it. */
const LEAP = 0.04
const INSET = 9
/** Text beside a place needs a row of so many pixels. */
const ROOM_FOR_TEXT = 40

/** Tempo, key and energy of an order, running down beside its rows. */
const props = defineProps<{
  points: readonly ProfilePoint[]
  ranges: Record<'bpm' | 'walk' | 'energy', Range>
  /** The places of the rows that are drawn, in order. */
  shown: readonly number[]
  rowHeight: number
  /** How much of a row is the entry; the rest is where it meets the next. */
  lineHeight: number
  column: number
}>()

const width = computed(() => 3 * props.column)
const height = computed(() => props.shown.length * props.rowHeight)
const written = computed(() => props.rowHeight >= ROOM_FOR_TEXT)
const rows = computed(() =>
  props.shown.flatMap((place, i) => {
    const point = props.points[place]
    return point ? [{ point, place, top: i * props.rowHeight }] : []
  }),
)

interface Mark {
  id: string
  /** Where it begins and where it ends: the same but of a tempo that changes on the way. */
  x: number
  endX: number
  /** What is between, as points of a line. */
  way: string
  top: number
  bottom: number
  text: string
  hollow: boolean
}

function marksOf(name: 'bpm' | 'walk', start: number, textOf: (point: ProfilePoint) => string): Mark[] {
  return rows.value.flatMap(({ point, top }) => {
    const value = point[name]
    if (value === null) return []
    const xOf = (v: number) => start + INSET + shareOf(v, props.ranges[name]) * (props.column - 2 * INSET)
    const [from, to] = [top + 4, top + props.lineHeight - 4]
    const course = name === 'bpm' && point.course.length ? point.course : [value, value]
    const yOf = (i: number) => from + (i / (course.length - 1)) * (to - from)
    const hollow = name === 'walk' && !point.key?.endsWith('m')
    return [
      {
        id: point.id,
        x: xOf(course[0]!),
        endX: xOf(course[course.length - 1]!),
        way: course.map((v, i) => `${xOf(v).toFixed(1)},${yOf(i).toFixed(1)}`).join(' '),
        top: from,
        bottom: to,
        text: textOf(point),
        hollow,
      },
    ]
  })
}

const tempi = computed(() => marksOf('bpm', 0, (p) => (p.bpm === null ? '' : bpm(p.bpm))))
const keys = computed(() => marksOf('walk', props.column, (p) => p.key ?? ''))
const pointOf = (mark: Mark) => rows.value.find((r) => r.point.id === mark.id)?.point
const leavesAt = (mark: Mark) => {
  const point = pointOf(mark)
  return point?.course[point.course.length - 1] ?? point?.bpm
}
/** Text stands on the side of a mark on which there is more room. */
const besideX = (mark: Mark, middle: number) => mark.x + (mark.x > middle * props.column ? -7 : 7)
const leaps = computed(() =>
  tempi.value.slice(1).flatMap((mark, i) => {
    const before = tempi.value[i]!
    const [one, other] = [leavesAt(before), pointOf(mark)?.bpm]
    const step = one && other ? other / one - 1 : 0
    if (Math.abs(step) <= LEAP) return []
    // On the side of the column where the line of the step is not.
    const isLeft = before.endX + mark.x < props.column
    return [
      {
        id: mark.id,
        x: isLeft ? props.column - 4 : 4,
        anchor: isLeft ? 'end' : 'start',
        y: (before.bottom + mark.top) / 2,
        text: `${step > 0 ? '+' : '−'}${(Math.abs(step) * 100).toFixed(0)} %`,
      },
    ]
  }),
)
const wideKeys = computed(() => {
  const known = keys.value
  return new Set(
    known.slice(1).flatMap((mark, i) => {
      const [one, other] = [known[i]!, mark].map(
        (m) => rows.value.find((r) => r.point.id === m.id)?.point.walk,
      )
      return Math.abs((other ?? 0) - (one ?? 0)) > 2 ? [mark.id] : []
    }),
  )
})
const energy = computed(() => {
  const start = 2 * props.column + INSET
  const reach = props.column - 2 * INSET
  const line: string[] = []
  for (const { point, top } of rows.value)
    point.energy.forEach((value, i) => {
      if (value === null) return
      const y = top + ((i + 0.5) / point.energy.length) * props.rowHeight
      line.push(`${(start + shareOf(value, props.ranges.energy) * reach).toFixed(1)},${y.toFixed(1)}`)
    })
  if (!line.length) return undefined
  const [first, last] = [line[0]!.split(',')[1], line.at(-1)!.split(',')[1]]
  return { line: `M${line.join('L')}`, area: `M${start},${first}L${line.join('L')}L${start},${last}Z` }
})

const pointerY = ref<number>()
const reading = computed(() => {
  if (pointerY.value === undefined) return undefined
  const row = rows.value.find((r) => pointerY.value! < r.top + props.rowHeight)
  if (!row) return undefined
  const { point, place, top } = row
  const share = Math.min(0.999, Math.max(0, (pointerY.value - top) / props.rowHeight))
  const level = point.energy[Math.floor(share * point.energy.length)]
  const words = [
    tempoWords(point),
    point.key ?? 'key unknown',
    level == null ? 'energy unknown' : `energy ${Math.round(level * 100)} %`,
  ]
  return { title: `${place + 1}. ${point.title}`, words: words.join(' · ') }
})
function tempoWords({ bpm: first, course }: ProfilePoint): string {
  const last = course[course.length - 1] ?? first
  if (first === null || last === null) return 'tempo unknown'
  return bpm(first) === bpm(last) ? `${bpm(first)} BPM` : `${bpm(first)} to ${bpm(last)} BPM`
}
const overTop = computed(() => (pointerY.value ?? 0) < 48)
</script>

<template>
  <div class="profiles" :style="{ width: `${width}px` }" @pointerleave="pointerY = undefined">
    <svg
      :width="width"
      :height="height"
      role="img"
      aria-label="Tempo, key and energy from track to track"
      @pointermove="(event) => (pointerY = event.offsetY)"
    >
      <rect class="catch" :width="width" :height="height" />
      <line v-for="i in 2" :key="i" class="border" :x1="i * column" :x2="i * column" y1="0" :y2="height" />
      <path v-if="energy" class="area" :d="energy.area" />
      <path v-if="energy" class="energy" :d="energy.line" />
      <g v-for="(marks, which) in { tempo: tempi, key: keys }" :key="which">
        <template v-for="(mark, i) in marks" :key="mark.id">
          <line
            v-if="i"
            class="step"
            :class="{ wide: which === 'key' ? wideKeys.has(mark.id) : leaps.some((l) => l.id === mark.id) }"
            :x1="marks[i - 1]!.endX"
            :y1="marks[i - 1]!.bottom"
            :x2="mark.x"
            :y2="mark.top"
          />
          <polyline class="stay" :points="mark.way" />
          <circle
            v-if="which === 'key' && written"
            :class="{ hollow: mark.hollow }"
            class="dot"
            :cx="mark.x"
            :cy="(mark.top + mark.bottom) / 2"
            r="4"
          />
          <text
            v-if="written"
            :x="besideX(mark, which === 'key' ? 1.5 : 0.5)"
            :y="mark.x === mark.endX ? (mark.top + mark.bottom) / 2 + 4 : mark.top + 8"
            :text-anchor="mark.x > (which === 'key' ? 1.5 : 0.5) * column ? 'end' : 'start'"
          >
            {{ mark.text }}
          </text>
        </template>
      </g>
      <g v-if="written">
        <text
          v-for="leap in leaps"
          :key="leap.id"
          class="leap"
          :x="leap.x"
          :y="leap.y + 4"
          :text-anchor="leap.anchor"
        >
          {{ leap.text }}
        </text>
      </g>
      <line v-if="reading" class="at" x1="0" :x2="width" :y1="pointerY" :y2="pointerY" />
    </svg>
    <div
      v-if="reading"
      class="read"
      :style="{ top: `${(pointerY ?? 0) + (overTop ? 10 : -44)}px` }"
      role="status"
    >
      <strong class="clip">{{ reading.title }}</strong>
      {{ reading.words }}
    </div>
  </div>
</template>

<style scoped>
.profiles {
  position: relative;
}

svg {
  display: block;
}

.catch {
  fill: transparent;
}

.border {
  stroke: var(--line);
}

.stay {
  fill: none;
  stroke: var(--ink-soft);
  stroke-width: 2.5;
  stroke-linecap: round;
}

.step {
  stroke: var(--line-strong);
  stroke-width: 1.5;
}

.step.wide {
  stroke: var(--warn);
  stroke-dasharray: 4 3;
}

.dot {
  fill: var(--ink-soft);
  stroke: var(--ink-soft);
  stroke-width: 1.5;
}

.dot.hollow {
  fill: var(--ground);
}

.area {
  fill: var(--fern-soft);
}

.energy {
  fill: none;
  stroke: var(--fern);
  stroke-width: 1.5;
}

.at {
  stroke: var(--ink);
  stroke-width: 1;
  pointer-events: none;
}

text {
  fill: var(--ink-soft);
  font-size: 11.5px;
  pointer-events: none;
}

.leap {
  fill: var(--warn);
  font-weight: 600;
}

.read {
  position: absolute;
  z-index: 4;
  right: 4px;
  display: flex;
  flex-direction: column;
  max-width: 300px;
  padding: 3px 8px;
  border-radius: var(--radius);
  background: var(--ink);
  color: var(--sheet);
  font-size: 12px;
  line-height: 1.35;
  white-space: nowrap;
  pointer-events: none;
}
</style>
