<script setup lang="ts">
import { Button, Segmented, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Onward, Transition } from '../../../api/types'
import type { CurveEditing } from '../../../composables/transition/useCurveEditing'
import { LAWS } from '../../../time/laws'
import { isFixed, withMoved, type PickedPoint } from '../../../time/curveEdit'
import NumberField from '../../shared/NumberField.vue'

const ONWARD: { value: Onward; label: string; title: string }[] = [
  { value: 'straight', label: 'Straight', title: 'In a straight line to the next point' },
  { value: 'smooth', label: 'Smooth', title: 'In an S to the next point' },
  { value: 'step', label: 'Step', title: 'It stays, and steps at the next point' },
]

/** The numbers of the chosen point, or what can be done to several at once. */
const props = defineProps<{ transition: Transition; editing: CurveEditing; bar: number }>()

const points = computed(() => props.editing.picked.value)
/** The one that was chosen last; none while the last of them is taken out. */
const point = computed<PickedPoint>(
  () => points.value[points.value.length - 1] ?? { side: 'outgoing', control: 'volume', index: -1 },
)
const spec = computed(() => props.editing.controls.value?.find((c) => c.control === point.value.control))
const law = computed(() =>
  point.value.control === 'volume' ? props.transition.volume_law : (spec.value?.law ?? 'fader'),
)
const curve = computed(() => props.editing.stored(point.value.side, point.value.control))
const chosen = computed(() => curve.value[point.value.index])
const isEdge = computed(() => point.value.index === 0 || point.value.index === curve.value.length - 1)
const fixed = computed(() => isFixed(curve.value, point.value.index, point.value.side))
const beats = computed(() => props.editing.beats(point.value.side))
const bars = computed(() => ((chosen.value?.[0] ?? 0) * beats.value) / props.bar)
const field = computed(() => LAWS[law.value].field)
const isLast = computed(() => point.value.index === curve.value.length - 1)
const title = computed(() =>
  points.value.length > 1
    ? `${points.value.length} points`
    : `${point.value.side === 'outgoing' ? 'Outgoing' : 'Incoming'} ${(spec.value?.label ?? point.value.control).toLowerCase()}, point ${point.value.index + 1}`,
)

function move(at: number, value: number) {
  const { side, control, index } = point.value
  return props.editing.put(side, control, withMoved(curve.value, index, at, value, side))
}
</script>

<template>
  <section v-if="chosen" class="point numbers full-numbers" aria-label="Chosen point">
    <h3>{{ title }}</h3>
    <template v-if="points.length === 1">
      <label for="point-at">Bars in</label>
      <NumberField
        v-if="!isEdge"
        id="point-at"
        :value="bars"
        :step="1"
        :min="0"
        :send="(n) => move((n * bar) / beats, chosen![1])"
      />
      <span v-else class="soft">{{ point.index === 0 ? 'at the start' : 'at the end' }}</span>
      <Button v-if="!isEdge" type="link" size="small" class="remove" @click="editing.remove()">remove</Button>
      <span v-else />
      <label for="point-value">{{ field.label(chosen[1]) }}</label>
      <span v-if="fixed" class="soft">neutral, fixed</span>
      <NumberField
        v-else
        id="point-value"
        :value="field.numberOf(chosen[1])"
        :step="field.step"
        :min="field.min"
        :max="field.max"
        :send="(n) => move(chosen![0], field.positionOf(n, chosen![1]))"
      />
      <span class="faint">{{ fixed ? '' : field.unit(chosen[1]) }}</span>
    </template>
    <Button v-else size="small" class="wide" @click="editing.remove()">Remove them</Button>
    <Segmented
      v-if="points.length > 1 || !isLast"
      class="wide"
      block
      size="small"
      aria-label="How it goes on"
      :value="chosen[2]"
      :options="ONWARD"
      @change="(onward) => editing.setOnward(onward as Onward)"
    />
    <div class="wide curve-acts">
      <Tooltip title="Copy this curve (Ctrl C)"
        ><Button size="small" @click="editing.copy(point.side, point.control)">Copy</Button></Tooltip
      >
      <Tooltip title="Put the copied curve here (Ctrl V)"
        ><Button
          size="small"
          :disabled="!editing.copied.value"
          @click="editing.paste(point.side, point.control)"
          >Paste</Button
        ></Tooltip
      >
      <Tooltip title="Gives the other side the mirror curve: as one fades out, the other fades in"
        ><Button size="small" @click="editing.mirror(point.side, point.control)">Mirror</Button></Tooltip
      >
    </div>
  </section>
</template>

<style scoped>
h3,
.wide {
  grid-column: 1 / -1;
}

h3 {
  margin-bottom: 0;
}

.remove {
  padding: 0;
}

.curve-acts {
  display: flex;
  gap: 5px;
}
</style>
