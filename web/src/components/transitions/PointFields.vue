<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Curve, Transition } from '../../api/types'
import { useCurves } from '../../composables/useCurves'
import { isFixed, withEnds, withMoved, withRemoved, type PickedPoint } from '../../time/curveEdit'
import { useMix } from '../../stores/mix'
import { gainOf, positionOf } from '../../time/curve'
import NumberField from '../shared/NumberField.vue'

/** Shown for a closed fader, which no finite number of dB is. */
const OFF_DB = -60

/** The numbers of one point of a curve: where it stands in the overlap, and its level. */
const props = defineProps<{ transition: Transition; point: PickedPoint; bar: number }>()
const mix = useMix()

const { curveOf } = useCurves()
const curve = computed(() => withEnds(curveOf(props.transition, props.point.side, props.point.control)))
const chosen = computed(() => curve.value[props.point.index])
const isEdge = computed(() => props.point.index === 0 || props.point.index === curve.value.length - 1)
const fixed = computed(() => isFixed(curve.value, props.point.index, props.point.side))
const bars = computed(() => ((chosen.value?.[0] ?? 0) * props.transition.beats) / props.bar)
const db = computed(() => {
  const gain = gainOf(chosen.value?.[1] ?? 0)
  return gain > 0 ? Math.max(OFF_DB, Math.round(200 * Math.log10(gain)) / 10) : OFF_DB
})

function send(shape: Curve) {
  const { out_id, in_id } = props.transition
  return mix.send({
    kind: 'set_curve',
    out_id,
    in_id,
    side: props.point.side,
    control: props.point.control,
    curve: shape,
  })
}

function move(at: number, value: number) {
  return send(withMoved(curve.value, props.point.index, at, value, props.point.side))
}
</script>

<template>
  <section v-if="chosen" class="point" aria-label="Chosen point">
    <h3>
      {{ point.side === 'outgoing' ? 'Outgoing' : 'Incoming' }} {{ point.control }}, point
      {{ point.index + 1 }}
    </h3>
    <label for="point-at">Bars in</label>
    <NumberField
      v-if="!isEdge"
      id="point-at"
      :value="bars"
      :step="1"
      :min="0"
      :send="(n) => move((n * bar) / transition.beats, chosen![1])"
    />
    <span v-else class="soft">{{ point.index === 0 ? 'at the start' : 'at the end' }}</span>
    <Button
      v-if="!isEdge"
      type="link"
      size="small"
      class="remove"
      @click="send(withRemoved(curve, point.index))"
      >remove</Button
    >
    <span v-else />
    <label for="point-db">Level</label>
    <NumberField
      v-if="!fixed"
      id="point-db"
      :value="db"
      :step="1"
      :min="OFF_DB"
      :max="0"
      :send="(n) => move(chosen![0], n <= OFF_DB ? 0 : positionOf(n))"
    />
    <span v-else class="soft">0 dB, fixed</span>
    <span class="faint">{{ fixed ? '' : db <= OFF_DB ? 'off' : 'dB' }}</span>
  </section>
</template>

<style scoped>
.point {
  display: grid;
  grid-template-columns: 1fr 80px 54px;
  align-items: center;
  gap: 5px 8px;
}

h3 {
  grid-column: 1 / -1;
}

.point :deep(.ant-input-number) {
  width: 100%;
}

.remove {
  padding: 0;
}
</style>
