<script setup lang="ts">
import { Button, Input, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Loop, LoopKind } from '../../api/types'
import { useKeys } from '../../composables/useKeys'
import type { Loops } from '../../composables/useLoops'
import { loopLength } from '../../time/cues'
import { barBeat } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import PickField from '../shared/PickField.vue'

const { loops } = defineProps<{ loops: Loops }>()
const emit = defineEmits<{ seek: [seconds: number]; hear: [loop: Loop] }>()

const KINDS: { value: LoopKind; label: string }[] = [
  { value: 'plain', label: 'Loop' },
  { value: 'beat', label: 'Beat only' },
  { value: 'build', label: 'Build' },
  { value: 'outro', label: 'Outro' },
]
const perBar = computed(() => loops.beats.value.beatsPerBar)
const now = computed(() => loops.chosen.value)
const kindOf = (loop: Loop) => KINDS.find((k) => k.value === loop.kind)!.label
const labelOf = (loop: Loop) => loop.name || kindOf(loop)

function choose(loop: Loop) {
  loops.choose(loop)
  emit('seek', loops.spanOf(loop).from)
}

function hear(loop: Loop) {
  choose(loop)
  emit('hear', loop)
}

function rename(loop: Loop, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name !== loop.name) void loops.change(loop, { name }, 'rename a loop')
}

const onChosen = (act: (loop: Loop) => unknown) => () => void (now.value && act(now.value))
useKeys('Loops', [
  { keys: ['l'], label: 'Set a loop of four bars', run: () => void loops.set() },
  { keys: ['L'], shown: 'shift L', label: 'Hear the chosen loop', run: onChosen(hear) },
  { keys: ['/'], label: 'Halve the chosen loop', run: onChosen((l) => loops.scale(l, 0.5)) },
  { keys: ['*'], label: 'Double the chosen loop', run: onChosen((l) => loops.scale(l, 2)) },
  { keys: ['a'], label: 'Again after the chosen loop', run: onChosen(loops.again) },
])
</script>

<template>
  <section class="loops">
    <h3>
      Loops
      <Tooltip title="Four bars from the cursor, or from what is heard (L)">
        <Button class="set" size="small" @click="loops.set()">Set a loop</Button>
      </Tooltip>
    </h3>
    <p v-if="!loops.loops.value.length && !loops.pencilled.value.length" class="soft">None yet.</p>
    <ul class="list">
      <li v-for="l in loops.loops.value" :key="l.id" :class="{ chosen: l.id === loops.chosenId.value }">
        <button type="button" class="item" :aria-pressed="l.id === loops.chosenId.value" @click="choose(l)">
          <span class="clip">{{ labelOf(l) }}</span>
          <span class="soft">{{ loopLength(l.beats, perBar) }}</span>
          <span class="gap" />
          <span class="at">{{ barBeat(l.start, perBar) }}</span>
        </button>
        <button type="button" class="small" :aria-label="`Hear the loop ${labelOf(l)}`" @click="hear(l)">
          <GlyphIcon name="loop" :size="14" />
        </button>
      </li>
      <li v-for="p in loops.pencilled.value" :key="p.loop.id">
        <button type="button" class="item pencil" @click="hear(p.loop)">
          <span class="clip soft">{{ p.reason }}</span>
          <span class="soft">{{ loopLength(p.loop.beats, perBar) }}</span>
          <span class="gap" />
          <span class="at">{{ barBeat(p.loop.start, perBar) }}</span>
        </button>
        <button
          type="button"
          class="small"
          :aria-label="`Accept the loop at ${barBeat(p.loop.start, perBar)}`"
          title="Accept"
          @click="loops.accept(p.loop)"
        >
          <GlyphIcon name="check" :size="13" />
        </button>
      </li>
    </ul>
    <template v-if="now">
      <div class="row">
        <PickField
          :value="now.kind"
          class="kind"
          :options="KINDS"
          label="Kind of the loop"
          @update:value="(kind) => loops.change(now!, { kind })"
        />
        <Input
          :key="now.id + now.name"
          size="small"
          :value="now.name"
          :maxlength="60"
          placeholder="Name"
          aria-label="Name of the loop"
          @blur="(e) => rename(now!, e)"
          @press-enter="(e) => (e.target as HTMLInputElement).blur()"
        />
      </div>
      <div class="row">
        <Tooltip title="Half as long (/)"
          ><Button size="small" aria-label="Halve the loop" @click="loops.scale(now, 0.5)">½</Button></Tooltip
        >
        <Tooltip title="Twice as long (*)"
          ><Button size="small" aria-label="Double the loop" @click="loops.scale(now, 2)">×2</Button></Tooltip
        >
        <Tooltip title="Back by its own length"
          ><Button size="small" aria-label="Move the loop back" @click="loops.move(now, -1)"
            ><GlyphIcon name="left" :size="13" /></Button
        ></Tooltip>
        <Tooltip title="On by its own length"
          ><Button size="small" aria-label="Move the loop on" @click="loops.move(now, 1)"
            ><GlyphIcon name="right" :size="13" /></Button
        ></Tooltip>
        <Tooltip title="The next of equal length (A)"
          ><Button size="small" @click="loops.again(now)">Again after it</Button></Tooltip
        >
        <span class="gap" />
        <Button size="small" aria-label="Remove the loop" @click="loops.remove(now)"
          ><GlyphIcon name="close" :size="12"
        /></Button>
      </div>
    </template>
  </section>
</template>

<style scoped>
h3 {
  display: flex;
  align-items: center;
}

.set {
  margin-left: auto;
}

p {
  margin: 0;
}

.list {
  margin: 0;
  padding: 0;
  list-style: none;
}

.list li {
  display: flex;
  border-radius: 4px;
}

.list li:hover,
.list li.chosen {
  background: var(--sunken);
}

.item {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 8px;
  min-width: 0;
  height: 26px;
  padding: 0 2px 0 18px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.item.pencil {
  font-style: italic;
}

.gap {
  flex: 1;
}

.small {
  width: 26px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.small:hover {
  background: var(--fern-soft);
}

.row {
  display: flex;
  align-items: center;
  gap: 5px;
  margin-top: 7px;
}

.kind {
  flex: none;
  width: 104px;
}

.row :deep(.ant-btn) {
  padding: 0 7px;
}
</style>
