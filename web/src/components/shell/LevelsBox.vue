<script setup lang="ts">
import { Button, Popover, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import type { Loudness } from '../../api/types'
import { useMix } from '../../stores/mix'
import { lufs } from '../../time/format'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'

/** To which level the tracks of the mix are brought, by what measure, and how much of it the limiter may do. */
const MEASURES: { value: Loudness; label: string }[] = [
  { value: 'integrated', label: 'over the whole track' },
  { value: 'loudest', label: 'in the loudest part' },
  { value: 'peak', label: 'in the peaks' },
]
const DEFAULT_LUFS = -14

const mix = useMix()
const open = computed(() => mix.mix!)
const held = computed(() => mix.plan?.warnings.find((s) => s.kind === 'level'))
/** What all entries have come to, told by one that was brought there. */
const reached = computed(
  () => mix.plan?.entries.find((e) => !e.gain_by_hand && e.gain_why.startsWith('brought'))?.gain_why,
)
const short = computed(() => (open.value.target_lufs === null ? 'as they are' : lufs(open.value.target_lufs)))

const setTarget = (value: number | null) => mix.send({ kind: 'set_target', lufs: value })
</script>

<template>
  <Popover trigger="click" placement="bottomRight" title="How loud the tracks play">
    <template #content>
      <div class="box">
        <label class="row">
          <Switch
            size="small"
            :checked="open.target_lufs !== null"
            aria-label="Make all equally loud"
            @change="(on) => setTarget(on ? DEFAULT_LUFS : null)"
          />
          Make all equally loud
        </label>
        <template v-if="open.target_lufs !== null">
          <div class="row">
            <PickField
              :value="open.loudness"
              :options="MEASURES"
              label="Equally loud"
              @update:value="(loudness) => loudness && mix.send({ kind: 'set_loudness', loudness })"
            />
          </div>
          <div v-if="open.loudness !== 'peak'" class="row">
            <span>up to</span>
            <NumberField
              class="number"
              label="Target in LUFS"
              :value="open.target_lufs"
              :step="0.5"
              :min="-40"
              :max="0"
              :send="setTarget"
            />
            <span class="soft">LUFS</span>
          </div>
          <div class="row">
            <span>with up to</span>
            <NumberField
              class="number"
              label="Limiting in dB"
              :value="open.limiting_db"
              :step="0.5"
              :min="0"
              :max="12"
              :send="(db) => mix.send({ kind: 'set_limiting', db })"
            />
            <span class="soft">dB of limiting at the peaks</span>
          </div>
          <p v-if="held" class="held">{{ held.message }}</p>
          <p v-else-if="reached" class="soft">All are {{ reached }}.</p>
        </template>
        <p v-else class="soft">Each track plays as loud as its file is, but for gains set by hand.</p>
      </div>
    </template>
    <Button :class="{ held: !!held }" aria-haspopup="dialog">Levels: {{ short }}</Button>
  </Popover>
</template>

<style scoped>
.box {
  width: 320px;
}

.row {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-bottom: 8px;
}

.number {
  width: 76px;
}

p {
  margin: 4px 0 0;
}

.held {
  color: var(--warn);
}
</style>
