<script setup lang="ts">
import { Button, Input, Segmented, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Cue, Loop } from '../../api/types'
import { useKeys } from '../../composables/useKeys'
import type { Cues } from '../../composables/useCues'
import type { Loops } from '../../composables/useLoops'
import { hasPreferred, nameOf, plateOf, ROLES, roleOf, type Quantum } from '../../time/cues'
import { barBeat } from '../../time/format'
import { HUE_COUNT, hueAt } from '../../theme/hues'
import GlyphIcon from '../shared/GlyphIcon.vue'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import LoopList from './LoopList.vue'

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
const ROLE_OPTIONS = ROLES.map((r) => ({ value: r.role, label: r.label }))
const MS = 0.001

const perBar = computed(() => cues.beats.value.beatsPerBar)
const place = (cue: Cue) => barBeat(cue.at, perBar.value)
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

function rename(cue: Cue, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name !== cue.name) void cues.change(cue, { name }, 'rename a cue')
}

function annotate(cue: Cue, event: Event) {
  const note = (event.target as HTMLTextAreaElement).value.trim()
  if (note !== cue.note) void cues.change(cue, { note }, 'note on a cue')
}

useKeys('Cues', [
  ...ROLES.map((r) => ({
    keys: [r.key],
    label: `Set ${r.label.toLowerCase()}`,
    run: () => void cues.set(r.role),
  })),
  { keys: ['y'], label: 'Accept the nearest pencilled cue', run: () => void cues.accept('nearest') },
  { keys: ['Y'], shown: 'shift Y', label: 'Accept all pencilled cues', run: () => void cues.accept('all') },
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
    run: (e) => void cues.nudge({ beats: e.key === '{' ? -perBar.value : perBar.value }),
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
    shown: 'Delete',
    label: 'Remove the chosen cue',
    run: () => void cues.remove(),
  },
])
</script>

<template>
  <div class="cues">
    <section>
      <h3>Set at the cursor, or while it plays</h3>
      <div class="roles">
        <Tooltip
          v-for="r in ROLES"
          :key="r.role"
          :title="`Set ${r.label.toLowerCase()} (${r.key.toUpperCase()})`"
        >
          <Button size="small" :aria-label="`Set ${r.label.toLowerCase()}`" @click="cues.set(r.role)">{{
            r.role === 'plain' ? 'Plain' : r.label
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
        <li v-for="(c, i) in cues.cues.value" :key="c.id" :class="{ chosen: c.id === cues.chosenId.value }">
          <button type="button" class="item" :aria-pressed="c.id === cues.chosenId.value" @click="choose(c)">
            <span class="number soft">{{ i < 9 ? i + 1 : '' }}</span>
            <span
              class="tag"
              :style="{
                '--hue': c.hue === null || c.hue === undefined ? 'var(--ink-soft)' : hueAt(c.hue).strong,
              }"
              >{{ plateOf(c) }}</span
            >
            <span v-if="hasPreferred(c.role) && c.preferred" class="soft why">preferred</span>
            <span class="gap" />
            <span class="at">{{ place(c) }}</span>
          </button>
          <button type="button" class="small" :aria-label="`Hear from ${nameOf(c)}`" @click="hear(c)">
            <GlyphIcon name="play" :size="12" />
          </button>
        </li>
      </ol>
      <p v-if="cues.areMany.value" class="many">
        {{ cues.cues.value.length }} cues: may some go? A few that mean something are found faster.
      </p>
    </section>

    <section v-if="now" class="edit" aria-label="The chosen cue">
      <div class="row">
        <PickField
          :value="now.role"
          class="role"
          :options="ROLE_OPTIONS"
          label="Role"
          @update:value="(role) => cues.change(now!, { role, preferred: false }, 'change a cue’s role')"
        />
        <Input
          :key="now.id + now.name"
          size="small"
          :value="now.name"
          :maxlength="60"
          placeholder="Name"
          aria-label="Name of the cue"
          @blur="(e) => rename(now!, e)"
          @press-enter="(e) => (e.target as HTMLInputElement).blur()"
        />
      </div>
      <div class="row">
        <NumberField
          class="beat"
          label="Bar"
          :value="Math.floor(now.at / perBar + 1e-9) + 1"
          :step="1"
          :min="-999"
          :send="
            (bar) => cues.moveTo(now!, now!.at + (bar - 1 - Math.floor(now!.at / perBar + 1e-9)) * perBar)
          "
        />
        <span class="soft">bar</span>
        <NumberField
          class="second"
          label="Second"
          :value="seconds"
          :step="0.001"
          :min="0"
          :digits="3"
          :send="(s) => cues.moveTo(now!, cues.beats.value.beatAt(s))"
        />
        <span class="soft">s</span>
        <span class="gap" />
        <Button
          v-if="hasPreferred(now.role)"
          size="small"
          :disabled="now.preferred"
          @click="cues.change(now, { preferred: true }, 'prefer a cue')"
          >{{ now.preferred ? 'Preferred' : 'Prefer' }}</Button
        >
      </div>
      <div class="row nudges">
        <Tooltip
          v-for="n in [
            { label: '− bar', title: 'A bar earlier ({)', by: { beats: -perBar } },
            { label: '− beat', title: 'A beat earlier ([)', by: { beats: -1 } },
            { label: '−10', title: '10 ms earlier (<)', by: { seconds: -10 * MS } },
            { label: '−1', title: '1 ms earlier (,)', by: { seconds: -MS } },
            { label: '+1', title: '1 ms later (.)', by: { seconds: MS } },
            { label: '+10', title: '10 ms later (>)', by: { seconds: 10 * MS } },
            { label: '+ beat', title: 'A beat later (])', by: { beats: 1 } },
            { label: '+ bar', title: 'A bar later (})', by: { beats: perBar } },
          ]"
          :key="n.label"
          :title="n.title"
        >
          <button type="button" class="nudge" :aria-label="n.title" @click="cues.nudge(n.by)">
            {{ n.label }}
          </button>
        </Tooltip>
      </div>
      <div class="row">
        <span class="hues" role="group" aria-label="Hue">
          <button
            type="button"
            class="hue none"
            aria-label="No hue"
            :aria-pressed="now.hue === null"
            @click="cues.change(now, { hue: null }, 'change a cue’s hue')"
          />
          <button
            v-for="n in HUE_COUNT"
            :key="n"
            type="button"
            class="hue"
            :style="{ background: hueAt(n - 1).strong }"
            :aria-label="hueAt(n - 1).name"
            :aria-pressed="now.hue === n - 1"
            :title="hueAt(n - 1).name"
            @click="cues.change(now, { hue: n - 1 }, 'change a cue’s hue')"
          />
        </span>
        <span class="gap" />
        <Button size="small" @click="cues.remove()">Remove</Button>
      </div>
      <Input.TextArea
        :key="now.id + now.note"
        class="note"
        :value="now.note"
        :maxlength="500"
        :auto-size="{ minRows: 1, maxRows: 4 }"
        placeholder="Note"
        aria-label="Note on the cue"
        @blur="(e) => annotate(now!, e)"
      />
      <span class="soft">{{ roleOf(now).label }} at {{ place(now) }}; hold H to hear it</span>
    </section>

    <section v-if="cues.pencilled.value.length">
      <h3>
        In pencil
        <Button class="all" size="small" type="link" @click="cues.accept('all')">Accept all (shift Y)</Button>
      </h3>
      <ul class="list">
        <li v-for="p in cues.pencilled.value" :key="p.cue.id">
          <button type="button" class="item" @click="emit('seek', cues.secondsOf(p.cue))">
            <span class="tag pencil">{{ plateOf(p.cue) }}</span>
            <span class="soft why clip">{{ p.reason }}</span>
            <span class="gap" />
            <span class="at">{{ place(p.cue) }}</span>
          </button>
          <Tooltip title="Accept (Y takes the one nearest to the cursor)">
            <button
              type="button"
              class="small"
              :aria-label="`Accept ${nameOf(p.cue)}`"
              @click="cues.accept(p.cue)"
            >
              <GlyphIcon name="check" :size="13" />
            </button>
          </Tooltip>
        </li>
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

.roles :deep(.ant-btn) {
  padding: 0 7px;
}

.row {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-top: 7px;
}

.edit .row:first-child {
  margin-top: 0;
}

p {
  margin: 0;
}

.many {
  margin-top: 4px;
  color: var(--warn);
}

.list {
  margin: 0;
  padding: 0;
  list-style: none;
}

.list li {
  display: flex;
  align-items: center;
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
  gap: 6px;
  min-width: 0;
  height: 26px;
  padding: 0 2px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
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

.gap {
  flex: 1;
}

.at {
  font-variant-numeric: tabular-nums;
}

.small {
  width: 26px;
  height: 26px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.small:hover {
  background: var(--fern-soft);
}

.role {
  width: 104px;
  flex: none;
}

.beat {
  width: 58px;
}

.second {
  width: 82px;
}

.nudges {
  gap: 3px;
}

.nudge {
  flex: 1;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 11px;
  letter-spacing: -0.1px;
  white-space: nowrap;
  cursor: pointer;
}

.nudge:hover {
  border-color: var(--fern);
}

.hues {
  display: flex;
  gap: 4px;
}

.hue {
  width: 16px;
  height: 16px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  cursor: pointer;
}

.hue.none {
  background: linear-gradient(to top right, var(--sheet) 46%, var(--ink-soft) 46% 54%, var(--sheet) 54%);
}

.hue[aria-pressed='true'] {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}

.note {
  margin: 7px 0 4px;
}
</style>
