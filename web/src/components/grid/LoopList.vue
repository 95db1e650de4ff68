<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Loop, LoopKind } from '../../api/types'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import type { Loops } from '../../composables/track/useLoops'
import { loopLength } from '../../time/cues'
import { barBeat } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import PickField from '../shared/PickField.vue'
import TextField from '../shared/TextField.vue'
import MarkRow from './MarkRow.vue'

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

const onChosen = (act: (loop: Loop) => unknown) => () => void (now.value && act(now.value))
useKeys('Loops', [
  { keys: ['L'], label: 'Set a loop of four bars', run: () => void loops.set() },
  { keys: ['j'], label: 'Hear the chosen loop', run: onChosen(hear) },
  { keys: ['/'], label: 'Halve the chosen loop', run: onChosen((l) => loops.scale(l, 0.5)) },
  { keys: ['*'], label: 'Double the chosen loop', run: onChosen((l) => loops.scale(l, 2)) },
  { keys: ['a'], label: 'Again after the chosen loop', run: onChosen(loops.again) },
])
</script>

<template>
  <section class="loops">
    <h3>
      Loops
      <Tooltip :title="`Four bars from the cursor, or from what is heard (${keyFor('L')})`">
        <Button class="set" size="small" @click="loops.set()">Set a loop</Button>
      </Tooltip>
    </h3>
    <p v-if="!loops.loops.value.length && !loops.suggested.value.length" class="soft">None yet.</p>
    <ul class="list">
      <MarkRow
        v-for="l in loops.loops.value"
        :key="l.id"
        :at="barBeat(l.start, loops.beats.value.bars)"
        :chosen="l.id === loops.chosenId.value"
        :action="`Hear the loop ${labelOf(l)}`"
        glyph="loop"
        @choose="choose(l)"
        @act="hear(l)"
      >
        <span class="clip name">{{ labelOf(l) }}</span>
        <span class="soft">{{ loopLength(l.beats, perBar) }}</span>
      </MarkRow>
      <MarkRow
        v-for="p in loops.suggested.value"
        :key="p.loop.id"
        :at="barBeat(p.loop.start, loops.beats.value.bars)"
        :action="`Accept the loop at ${barBeat(p.loop.start, loops.beats.value.bars)}`"
        glyph="check"
        title="Accept"
        @choose="hear(p.loop)"
        @act="loops.accept(p.loop)"
      >
        <em class="clip soft name">{{ p.reason }}</em>
        <span class="soft">{{ loopLength(p.loop.beats, perBar) }}</span>
      </MarkRow>
    </ul>
    <template v-if="now">
      <div class="row tight-buttons">
        <PickField
          :value="now.kind"
          class="kind"
          :options="KINDS"
          label="Kind of the loop"
          @update:value="(kind) => loops.change(now!, { kind })"
        />
        <TextField
          label="Name of the loop"
          placeholder="Name"
          :value="now.name"
          @send="(name) => loops.change(now!, { name }, 'rename a loop')"
        />
      </div>
      <div class="row tight-buttons">
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
        <Tooltip :title="`The next of equal length (${keyFor('a')})`"
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

.name {
  padding-left: 16px;
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
</style>
