<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import type { Piece } from '../../sound/piece'
import { useHold } from '../../composables/page/useHold'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import type { Heard } from '../../sound/pieces'
import GlyphIcon from '../shared/GlyphIcon.vue'

const ENDS = ['pointerup', 'pointercancel'] as const
const SIDES: { value: Heard; label: string; name: string; key: string }[] = [
  { value: 'outgoing', label: 'Outgoing', name: 'Outgoing alone', key: 'o' },
  { value: 'both', label: 'Both', name: 'Both', key: 'b' },
  { value: 'incoming', label: 'Incoming', name: 'Incoming alone', key: 'i' },
]

/** What of a transition is heard: by button or key, pressed or held. */
const props = defineProps<{ around: number; pieceOf: (heard: Heard) => Piece | undefined }>()
const emit = defineEmits<{ handOver: [] }>()
const hold = useHold((heard) => props.pieceOf(heard))

function press(heard: Heard, event: PointerEvent) {
  if (event.button !== 0) return
  hold.press(heard, event.timeStamp)
  for (const end of ENDS) window.addEventListener(end, release)
}

function release(event: Event) {
  for (const end of ENDS) window.removeEventListener(end, release)
  hold.release(event.timeStamp)
}

/** A click that no pointer made: by Enter, or by what reads the page aloud. */
function click(heard: Heard, event: MouseEvent) {
  if (event.detail === 0) hold.press(heard)
}

useKeys(
  'What is heard',
  SIDES.map((side) => ({
    keys: [side.key],
    label: `Hear ${side.name.toLowerCase()}; held down, only as long as that`,
    run: (event) => hold.press(side.value, event.timeStamp),
    release: (event) => hold.release(event.timeStamp),
  })),
)
</script>

<template>
  <span class="hear tight-buttons" role="group" aria-label="Listen">
    <Tooltip
      v-for="side in SIDES"
      :key="side.value"
      :title="`From ${around} beats before to ${around} after; while it plays, at the same place (${keyFor(side.key)}). Held down: only as long as that`"
    >
      <Button
        :type="side.value === 'both' ? 'primary' : 'default'"
        :aria-label="side.name"
        @pointerdown="(e: PointerEvent) => press(side.value, e)"
        @click="(e: MouseEvent) => click(side.value, e)"
      >
        <GlyphIcon name="play" :size="13" /> {{ side.label }}
      </Button>
    </Tooltip>
    <Tooltip :title="`Only where the one gives way to the other (${keyFor('h')})`">
      <Button aria-label="The hand-over alone" @click="emit('handOver')">Hand-over</Button>
    </Tooltip>
  </span>
</template>

<style scoped>
.hear {
  display: flex;
  gap: 4px;
}

@media (max-width: 860px) {
  .hear {
    flex-wrap: wrap;
  }
}
</style>
