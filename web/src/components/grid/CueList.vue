<script setup lang="ts">
import { Button, Segmented, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Cue, Loop } from '../../api/types'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import type { Cues } from '../../composables/track/useCues'
import type { Loops } from '../../composables/track/useLoops'
import { hasPreferred, nameOf, plateOf, ROLES, type Quantum } from '../../time/cues'
import { barBeat } from '../../time/format'
import { hueAt } from '../../theme/hues'
import CueEditor from './CueEditor.vue'
import LoopList from './LoopList.vue'
import MarkRow from './MarkRow.vue'

const { cues, loops, cursor } = defineProps<{ cues: Cues; loops: Loops; cursor: number }>()
const emit = defineEmits<{
  seek: [seconds: number]
  hear: [seconds: number]
  /** Heard while a key is held, and let go. */
  hold: [seconds: number]
  release: []
  hearLoop: [loop: Loop]
}>()

const QUANTA = [
  { value: 'bar', label: 'Bar' },
  { value: 'beat', label: 'Beat' },
  { value: 'free', label: 'Free' },
]
const MS = 0.001

const place = (cue: Cue) => barBeat(cue.at, cues.beats.value.bars)
const now = computed(() => cues.chosen.value)
const seconds = computed(() => (now.value ? cues.secondsOf(now.value) : 0))

function choose(cue: Cue) {
  cues.choose(cue)
  emit('seek', cues.secondsOf(cue))
}

function hear(cue: Cue | undefined) {
  if (!cue) return
  choose(cue)
  emit('hear', cues.secondsOf(cue))
}

function jump(way: 1 | -1) {
  const target = cues.target(cursor, way)
  if (!target) return
  emit('seek', cues.beats.value.timeAt(target.beat))
  const cue = cues.cues.value.find((c) => c.at === target.beat)
  if (cue) cues.choose(cue)
}

useKeys('Cues', [
  ...ROLES.map((r) => ({
    keys: [r.key],
    label: `Set ${r.label.toLowerCase()}`,
    run: () => void cues.set(r.role),
  })),
  { keys: ['y'], label: 'Accept the nearest suggested cue', run: () => void cues.accept('nearest') },
  { keys: ['Y'], label: 'Accept all suggested cues', run: () => void cues.accept('all') },
  {
    keys: [',', '.'],
    label: 'Chosen cue 1 ms earlier, later',
    run: (e) => void cues.nudge({ seconds: e.key === ',' ? -MS : MS }),
  },
  {
    keys: ['<', '>'],
    label: 'Chosen cue 10 ms earlier, later',
    run: (e) => void cues.nudge({ seconds: e.key === '<' ? -10 * MS : 10 * MS }),
  },
  {
    keys: ['[', ']'],
    label: 'Chosen cue a beat earlier, later',
    run: (e) => void cues.nudge({ beats: e.key === '[' ? -1 : 1 }),
  },
  {
    keys: ['{', '}'],
    label: 'Chosen cue a bar earlier, later',
    run: (e) => void cues.nudge({ bars: e.key === '{' ? -1 : 1 }),
  },
  {
    keys: ['ArrowUp', 'ArrowDown'],
    label: 'Previous, next cue or section',
    run: (e) => jump(e.key === 'ArrowUp' ? -1 : 1),
  },
  {
    keys: ['1', '2', '3', '4', '5', '6', '7', '8', '9'],
    shown: '1 … 9',
    label: 'Hear from that cue',
    run: (e) => hear(cues.cues.value[Number(e.key) - 1]),
  },
  {
    keys: ['h'],
    label: 'Hold to hear from the chosen cue',
    run: () => emit('hold', now.value ? seconds.value : cursor),
    release: () => emit('release'),
  },
  {
    keys: ['Delete', 'Backspace'],
    label: 'Remove the chosen cue',
    run: () => void cues.remove(),
  },
])
</script>

<template>
  <div class="cues">
    <section>
      <h3>Set at the cursor, or while it plays</h3>
      <div class="roles tight-buttons">
        <Tooltip v-for="r in ROLES" :key="r.role" :title="`Set ${r.label.toLowerCase()} (${keyFor(r.key)})`">
          <Button size="small" :aria-label="`Set ${r.label.toLowerCase()}`" @click="cues.set(r.role)">{{
            r.short
          }}</Button>
        </Tooltip>
      </div>
      <div class="row">
        <span class="soft">on the nearest</span>
        <Segmented
          :value="cues.quantum.value"
          :options="QUANTA"
          size="small"
          aria-label="Set on the nearest"
          @update:value="(on) => cues.catchOn(on as Quantum)"
        />
      </div>
    </section>

    <section>
      <h3>Cues</h3>
      <p v-if="!cues.cues.value.length" class="soft">None yet.</p>
      <ol class="list">
        <MarkRow
          v-for="(c, i) in cues.cues.value"
          :key="c.id"
          :at="place(c)"
          :chosen="c.id === cues.chosenId.value"
          :action="`Hear from ${nameOf(c)}`"
          glyph="play"
          @choose="choose(c)"
          @act="hear(c)"
        >
          <span class="number soft">{{ i < 9 ? i + 1 : '' }}</span>
          <span
            class="tag"
            :style="{ '--hue': c.hue === null ? 'var(--ink-soft)' : hueAt(c.hue ?? 0).strong }"
            >{{ plateOf(c) }}</span
          >
          <span v-if="hasPreferred(c.role) && c.preferred" class="soft why">preferred</span>
        </MarkRow>
      </ol>
      <p v-if="cues.areMany.value" class="many">
        {{ cues.cues.value.length }} cues: delete some? A few good ones are easier to find.
      </p>
    </section>

    <CueEditor v-if="now" :key="now.id" :cues="cues" :cue="now" />

    <section v-if="cues.suggested.value.length">
      <h3>
        Suggested
        <Button class="all" size="small" type="link" @click="cues.accept('all')">Accept all (shift Y)</Button>
      </h3>
      <ul class="list">
        <MarkRow
          v-for="p in cues.suggested.value"
          :key="p.cue.id"
          :at="place(p.cue)"
          :action="`Accept ${nameOf(p.cue)}`"
          glyph="check"
          title="Accept (Y accepts the one nearest to the cursor)"
          @choose="emit('seek', cues.secondsOf(p.cue))"
          @act="cues.accept(p.cue)"
        >
          <span class="tag pencil">{{ plateOf(p.cue) }}</span>
          <span class="soft why clip">{{ p.reason }}</span>
        </MarkRow>
      </ul>
    </section>

    <LoopList :loops="loops" @seek="(s) => emit('seek', s)" @hear="(loop) => emit('hearLoop', loop)" />
  </div>
</template>

<style scoped>
h3 {
  display: flex;
  align-items: center;
}

.all {
  height: 20px;
  margin-left: auto;
  padding: 0;
}

.roles {
  display: flex;
  gap: 4px;
}

.row {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-top: 7px;
}

p {
  margin: 0;
}

.many {
  margin-top: 4px;
  color: var(--warn);
}

.number {
  width: 10px;
  font-size: 12px;
}

.tag {
  flex: none;
  max-width: 150px;
  overflow: hidden;
  padding: 0 7px 0 6px;
  border: 1px solid var(--hue);
  border-left-width: 3px;
  border-radius: 0 8px 8px 0;
  background: var(--ground);
  font-size: 12px;
  line-height: 17px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.tag.pencil {
  border: 1px dashed var(--ink-soft);
  color: var(--ink-soft);
}

.why {
  font-size: 12px;
}
</style>
