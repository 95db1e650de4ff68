<script setup lang="ts">
import { Button, Dropdown, Menu, MenuDivider, MenuItem, Switch } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Entry } from '../../api/types'
import { useSnags } from '../../composables/useSnags'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import { barsLong, bpm, clockTime } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import NumberField from '../shared/NumberField.vue'

const COUNTS = [
  { count: 0.5, label: 'Half: one beat for each two of its own' },
  { count: 1, label: 'As it is' },
  { count: 2, label: 'Double: two beats for each of its own' },
]

const props = defineProps<{ entry: Entry; index: number; count: number }>()
defineEmits<{ grab: [event: PointerEvent] }>()
const menu = ref(false)
const mix = useMix()
const route = useRoute()

const hue = computed(() => hueOf(props.entry.index))
const transition = computed(() => mix.plan?.transitions[props.entry.index])
const next = computed(() => mix.plan?.entries[props.entry.index + 1])
const summary = computed(() => {
  const t = transition.value
  if (!t || !next.value) return ''
  const tempo =
    Math.abs(props.entry.home_bpm - next.value.home_bpm) < 0.005
      ? `${bpm(props.entry.home_bpm)} BPM`
      : `${bpm(props.entry.home_bpm)} → ${bpm(next.value.home_bpm)} BPM`
  const what =
    t.transition.kind === 'cut' ? 'clean cut' : `${barsLong(t.transition.beats, props.entry.bar)} overlap`
  return `${what} · ${tempo}`
})
const all = useSnags()
const snags = computed(() =>
  all.value.filter((s) => s.transition === props.entry.index || s.entry === props.entry.index),
)

function move(by: number) {
  void mix.send({ kind: 'move_entry', entry_id: props.entry.id, to: props.index + by })
}

function setGain(db: number | null) {
  return mix.send({ kind: 'set_gain', entry_id: props.entry.id, gain_db: db })
}

function setTempo(tempo: number | null) {
  return mix.send({ kind: 'set_home_tempo', entry_id: props.entry.id, bpm: tempo })
}
</script>

<template>
  <li class="entry" :data-entry="entry.id" :aria-label="`${index + 1}. ${entry.title}`">
    <div class="line">
      <button
        type="button"
        class="grip"
        :aria-label="`Move ${entry.title}: drag, or up and down keys`"
        data-own-keys
        @pointerdown="(event) => $emit('grab', event)"
        @keydown.up.prevent="index > 0 && move(-1)"
        @keydown.down.prevent="index < count - 1 && move(1)"
      >
        <GlyphIcon name="grip" />
      </button>
      <span class="number" :style="{ background: hue.strong, color: hue.on }">{{ index + 1 }}</span>
      <div class="names">
        <strong class="clip" :title="entry.title">{{ entry.title }}</strong>
        <span class="clip soft" :title="entry.artist">{{ entry.artist || '–' }}</span>
      </div>
      <div class="tempo">
        <NumberField
          class="bpm"
          :value="Math.round(entry.home_bpm * 100) / 100"
          :min="20"
          :max="400"
          :step="0.5"
          :label="`Tempo of ${entry.title} in the mix`"
          :send="setTempo"
        />
        <Button
          v-if="entry.tempo != null"
          type="link"
          size="small"
          class="own"
          title="Back to its own tempo"
          @click="setTempo(null)"
          >own {{ bpm(entry.own_bpm) }}</Button
        >
        <span v-else class="faint">{{
          entry.count === 1 ? 'own' : entry.count === 2 ? 'double' : 'half'
        }}</span>
      </div>
      <Switch
        size="small"
        :checked="entry.key_lock"
        :aria-label="`Key lock of ${entry.title}`"
        @change="(on) => mix.send({ kind: 'set_key_lock', entry_id: entry.id, key_lock: Boolean(on) })"
      />
      <div class="gain">
        <NumberField
          class="db"
          :value="Math.round(entry.gain_db * 10) / 10"
          :min="-40"
          :max="24"
          :step="0.5"
          :label="`Gain of ${entry.title} in dB`"
          :send="setGain"
        />
        <Button
          v-if="entry.gain_by_hand"
          type="link"
          size="small"
          class="own"
          title="Bring it to the mix's level"
          @click="setGain(null)"
          >match</Button
        >
        <span v-else class="faint" :title="entry.gain_why">dB</span>
      </div>
      <span class="starts">{{ clockTime(entry.start_s) }}</span>
      <button
        v-if="!menu"
        type="button"
        class="dots"
        :aria-label="`More for ${entry.title}`"
        aria-haspopup="menu"
        @click="menu = true"
      >
        <GlyphIcon name="more" />
      </button>
      <Dropdown v-else v-model:open="menu" :trigger="['click']" placement="bottomRight">
        <button type="button" class="dots" :aria-label="`More for ${entry.title}`" aria-expanded="true">
          <GlyphIcon name="more" />
        </button>
        <template #overlay>
          <Menu>
            <MenuItem
              v-for="option in COUNTS"
              :key="option.count"
              :disabled="entry.count === option.count"
              @click="mix.send({ kind: 'set_count', entry_id: entry.id, count: option.count })"
            >
              {{ option.label }}
            </MenuItem>
            <MenuDivider />
            <MenuItem key="remove" danger @click="mix.send({ kind: 'remove_entry', entry_id: entry.id })"
              >Take out of the mix</MenuItem
            >
          </Menu>
        </template>
      </Dropdown>
    </div>
    <div v-if="transition" class="meeting">
      <RouterLink
        :to="{ name: 'transitions', params: { mix: String(route.params.mix), number: entry.index + 1 } }"
      >
        {{ summary }}
      </RouterLink>
      <span v-if="snags.length" class="snag" :title="snags.map((s) => s.message).join('\n')"
        ><GlyphIcon name="flag" :size="13" />
        {{ snags.length === 1 ? 'a snag' : `${snags.length} snags` }}</span
      >
    </div>
  </li>
</template>

<style scoped>
.entry {
  background: var(--ground);
}

.line {
  display: grid;
  grid-template-columns: 26px 30px minmax(130px, 1fr) 118px 62px 104px 44px 32px;
  align-items: center;
  gap: 10px;
  height: 52px;
  padding: 0 0 0 10px;
  border: 1px solid var(--line);
  border-width: 1px 0;
  background: var(--sheet);
}

.grip {
  padding: 6px 3px;
  border: 0;
  background: none;
  color: var(--ink-faint);
  cursor: grab;
}

.number {
  display: grid;
  place-items: center;
  width: 28px;
  height: 28px;
  border-radius: var(--radius);
  font-weight: 600;
}

.names {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.25;
}

.tempo,
.gain {
  display: flex;
  align-items: center;
  gap: 5px;
}

.bpm {
  width: 70px;
}

.db {
  width: 66px;
}

.own {
  padding: 0;
  font-size: 12px;
}

.line :deep(.ant-switch) {
  justify-self: start;
}

.starts {
  text-align: right;
}

.meeting {
  display: flex;
  align-items: center;
  gap: 12px;
  height: 28px;
  padding-left: 48px;
  font-size: 13px;
}

.meeting::before {
  content: '';
  width: 2px;
  height: 100%;
  background: var(--line-strong);
}

.meeting a {
  color: var(--fern);
}

.snag {
  color: var(--warn);
}

@media (max-width: 1180px) {
  .line {
    grid-template-columns: 22px 30px minmax(90px, 1fr) 106px 46px 92px 44px 30px;
    gap: 6px;
    padding-left: 6px;
  }

  .bpm {
    width: 62px;
  }

  .db {
    width: 58px;
  }
}
</style>
