<script setup lang="ts">
import { Popover } from 'ant-design-vue'
import { computed } from 'vue'
import type { OpenTrack, Track } from '../../api/types'
import { useKeyNotation } from '../../composables/page/preferences'
import { bpm, clockTime, decibels } from '../../time/format'
import { isSwung } from '../../time/swing'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** Key and length of a track in short, and all that its analysis found behind them. */
const { track, found } = defineProps<{ track: Track; found: OpenTrack }>()

const { keyOf } = useKeyNotation()
const level = (value: number | null, unit: string) =>
  value === null ? '–' : `${value.toFixed(1).replace('-', '−')} ${unit}`

const short = computed(() => [track.key ? keyOf(track) : '', clockTime(track.duration_s)].filter(Boolean))
const rows = computed(() => {
  const second = found.second_key
    ? `, else ${keyOf({ key: found.second_key, key_wheel: found.second_key_wheel })}`
    : ''
  const sure = found.key_confidence === null ? '' : ` (${Math.round(found.key_confidence * 100)} % sure)`
  const cents = Math.round(found.tuning_cents ?? 0)
  return [
    { name: 'Key', value: track.key ? `${keyOf(track)}${sure}${second}` : 'no pitch heard' },
    { name: 'Tuning', value: found.tuning_cents === null ? '–' : `${tuned(cents)} from A = 440 Hz` },
    { name: 'Next likely tempo', value: found.runner_up_bpm ? `${bpm(found.runner_up_bpm)} BPM` : 'none' },
    { name: 'Eighths', value: swung(found.swing) },
    { name: 'Loudness', value: level(track.loudness_lufs, 'LUFS') },
    { name: 'Loudest 3 s', value: level(found.short_term_max_lufs, 'LUFS') },
    { name: 'True peak', value: level(track.true_peak_dbtp, 'dBTP') },
    {
      name: 'Gain to −14 LUFS',
      value: found.suggested_gain_db === null ? '–' : decibels(found.suggested_gain_db),
    },
    { name: 'File', value: `${track.format}, ${track.rate / 1000} kHz, ${channels(track.channels)}` },
  ]
})

const tuned = (cents: number) => (cents ? `${cents > 0 ? '+' : '−'}${Math.abs(cents)} cents` : '0 cents')
const swung = (ratio: number | null) =>
  ratio === null ? '–' : isSwung(ratio) ? `swung ${ratio.toFixed(1)} : 1` : 'straight'
const channels = (count: number) => ['', 'mono', 'stereo'][count] ?? `${count} channels`
</script>

<template>
  <Popover trigger="click" placement="bottomLeft" title="What the analysis found">
    <template #content>
      <dl class="facts">
        <template v-for="row in rows" :key="row.name">
          <dt class="soft">{{ row.name }}</dt>
          <dd>{{ row.value }}</dd>
        </template>
      </dl>
    </template>
    <button type="button" class="short" aria-haspopup="dialog" title="All that the analysis found">
      · {{ short.join(' · ') }} <GlyphIcon name="down" :size="12" />
    </button>
  </Popover>
</template>

<style scoped>
.short {
  padding: 2px 4px;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  cursor: pointer;
}

.short:hover {
  color: var(--ink);
}

.facts {
  display: grid;
  grid-template-columns: auto auto;
  gap: 3px 18px;
  margin: 0;
}

.facts dd {
  margin: 0;
  font-variant-numeric: tabular-nums;
}
</style>
