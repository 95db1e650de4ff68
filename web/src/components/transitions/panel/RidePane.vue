<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Control, Side } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useRide } from '../../../composables/transition/useRide'
import { askForMidi, midi } from '../../../composables/page/midi'
import { useListening } from '../../../stores/listening'
import { useMix } from '../../../stores/mix'
import { positionText } from '../../../time/laws'
import FoldSection from '../../shared/FoldSection.vue'
import PickField from '../../shared/PickField.vue'

/**
 * Two faders to ride while listening: by mouse, touch, arrow keys, or a MIDI controller, for which these two stand in. What
 * is moved becomes the curve of that side.
 */
const { planned, outgoing, incoming, editing } = useTransition()
const mix = useMix()
const listening = useListening()

const SIDES: Side[] = ['outgoing', 'incoming']

/** Where in the curves of a side one is, as it is heard. */
function placeOf(side: Side): number | undefined {
  const { entry } = side === 'outgoing' ? outgoing.value : incoming.value
  const clock = mix.clocks[entry.clock]
  const at = mix.mix && listening.heardIn('mix', mix.mix.id)
  if (at === undefined || !clock || listening.state !== 'playing') return undefined
  const { start_beat: start, end_beat: end } =
    (side === 'outgoing' ? planned.value.out_span : planned.value.in_span) ?? planned.value
  const place = (clock.beatAt(at) - start) / (end - start)
  return place >= 0 && place <= 1 ? place : undefined
}

const ride = useRide(planned, editing, placeOf, mix.send)
const controls = computed(() =>
  (editing.controls.value ?? []).map((c) => ({ value: c.control, label: c.label })),
)
const spec = computed(() => editing.controls.value?.find((c) => c.control === ride.control.value))
</script>

<template>
  <FoldSection
    name="ride"
    title="Ride"
    :summary="ride.isRiding.value ? 'recording' : 'move faders while it plays'"
  >
    <div class="ride">
      <PickField
        label="What is ridden"
        :value="ride.control.value"
        :options="controls"
        @update:value="(c) => c && (ride.control.value = c as Control)"
      />
      <div v-for="side in SIDES" :key="side" class="fader">
        <label :for="`ride-${side}`">{{ side === 'outgoing' ? 'Outgoing' : 'Incoming' }}</label>
        <input
          :id="`ride-${side}`"
          type="range"
          min="0"
          max="1"
          step="0.01"
          :value="ride.shown.value[side]"
          @pointerdown="ride.press"
          @input="(e) => ride.move(side, Number((e.target as HTMLInputElement).value))"
        />
        <span class="faint value">{{ spec ? positionText(spec, ride.shown.value[side]) : '' }}</span>
        <Button
          v-if="midi === 'there'"
          size="small"
          :type="ride.learning.value === side ? 'primary' : 'default'"
          title="Then move the control of your controller that is to do this"
          @click="ride.learning.value = ride.learning.value === side ? undefined : side"
          >learn</Button
        >
      </div>
      <Button
        v-if="midi !== 'there'"
        size="small"
        class="midi"
        :disabled="midi === 'none'"
        @click="askForMidi"
        >{{ midi === 'none' ? 'This browser has no MIDI to offer' : 'Use a MIDI controller' }}</Button
      >
      <p class="soft note">
        Play it, then move: from the first move until you let go, the curve is what you did. One undo takes it
        back.
      </p>
    </div>
  </FoldSection>
</template>

<style scoped>
.ride {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.fader {
  display: grid;
  grid-template-columns: 62px 1fr 74px auto;
  align-items: center;
  gap: 6px;
}

input[type='range'] {
  width: 100%;
  accent-color: var(--fern);
}

.midi {
  align-self: flex-start;
}

.value {
  white-space: nowrap;
}

.note {
  margin: 0;
  font-size: 12px;
}
</style>
