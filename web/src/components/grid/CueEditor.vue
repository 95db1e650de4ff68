<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Cue } from '../../api/types'
import type { Cues } from '../../composables/track/useCues'
import { hasPreferred, ROLES, roleOf } from '../../time/cues'
import { barBeat } from '../../time/format'
import { HUE_COUNT, hueAt } from '../../theme/hues'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import TextField from '../shared/TextField.vue'

/** All that can be changed of the chosen cue. */
const { cues, cue } = defineProps<{ cues: Cues; cue: Cue }>()

const ROLE_OPTIONS = ROLES.map((r) => ({ value: r.role, label: r.label }))
const MS = 0.001

const bars = computed(() => cues.beats.value.bars)
/** The bar that it lies in, the first being 0. */
const bar = computed(() => bars.value.barOf(cue.at))
const place = computed(() => barBeat(cue.at, bars.value))
const seconds = computed(() => cues.secondsOf(cue))
const nudges = computed(() => [
  { label: '− bar', title: 'A bar earlier ({)', by: { bars: -1 } },
  { label: '− beat', title: 'A beat earlier ([)', by: { beats: -1 } },
  { label: '−10', title: '10 ms earlier (<)', by: { seconds: -10 * MS } },
  { label: '−1', title: '1 ms earlier (,)', by: { seconds: -MS } },
  { label: '+1', title: '1 ms later (.)', by: { seconds: MS } },
  { label: '+10', title: '10 ms later (>)', by: { seconds: 10 * MS } },
  { label: '+ beat', title: 'A beat later (])', by: { beats: 1 } },
  { label: '+ bar', title: 'A bar later (})', by: { bars: 1 } },
])
</script>

<template>
  <section aria-label="The chosen cue">
    <div class="row">
      <PickField
        :value="cue.role"
        class="role"
        :options="ROLE_OPTIONS"
        label="Role"
        @update:value="(role) => cues.change(cue, { role, preferred: false }, 'change a cue’s role')"
      />
      <TextField
        label="Name of the cue"
        placeholder="Name"
        :value="cue.name"
        @send="(name) => cues.change(cue, { name }, 'rename a cue')"
      />
    </div>
    <div class="row">
      <NumberField
        class="beat"
        label="Bar"
        :value="bar + 1"
        :step="1"
        :min="-999"
        :send="(wanted) => cues.moveTo(cue, cues.barsFrom(cue.at, wanted - 1 - bar))"
      />
      <span class="soft">bar</span>
      <NumberField
        class="second"
        label="Second"
        :value="seconds"
        :step="0.001"
        :min="0"
        :digits="3"
        :send="(s) => cues.moveTo(cue, cues.beats.value.beatAt(s))"
      />
      <span class="soft">s</span>
      <span class="gap" />
      <Button
        v-if="hasPreferred(cue.role)"
        size="small"
        :disabled="cue.preferred"
        @click="cues.change(cue, { preferred: true }, 'prefer a cue')"
        >{{ cue.preferred ? 'Preferred' : 'Prefer' }}</Button
      >
    </div>
    <div class="row nudges">
      <Tooltip v-for="n in nudges" :key="n.label" :title="n.title">
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
          :aria-pressed="cue.hue === null"
          @click="cues.change(cue, { hue: null }, 'change a cue’s hue')"
        />
        <button
          v-for="n in HUE_COUNT"
          :key="n"
          type="button"
          class="hue"
          :style="{ background: hueAt(n - 1).strong }"
          :aria-label="hueAt(n - 1).name"
          :aria-pressed="cue.hue === n - 1"
          :title="hueAt(n - 1).name"
          @click="cues.change(cue, { hue: n - 1 }, 'change a cue’s hue')"
        />
      </span>
      <span class="gap" />
      <Button size="small" @click="cues.remove()">Remove</Button>
    </div>
    <TextField
      class="note"
      long
      label="Note on the cue"
      placeholder="Note"
      :longest="500"
      :value="cue.note"
      @send="(note) => cues.change(cue, { note }, 'note on a cue')"
    />
    <span class="soft">{{ roleOf(cue).label }} at {{ place }}; hold H to hear it</span>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-top: 7px;
}

.row:first-child {
  margin-top: 0;
}

.role {
  flex: none;
  width: 104px;
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
