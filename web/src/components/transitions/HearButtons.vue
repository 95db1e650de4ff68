<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import type { Piece } from '../../stores/listening'
import { useListening } from '../../stores/listening'
import type { Heard } from '../../sound/pieces'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** A press for longer than this is held: what it lets one hear ends with it. */
const HELD_MS = 250
const ENDS = ['pointerup', 'pointercancel'] as const
const SIDES: { value: Heard; label: string; name: string; key: string }[] = [
  { value: 'outgoing', label: 'Outgoing', name: 'Outgoing alone', key: 'O' },
  { value: 'both', label: 'Both', name: 'Both', key: 'B' },
  { value: 'incoming', label: 'Incoming', name: 'Incoming alone', key: 'I' },
]

/**
 * What of a transition is heard. A click plays it; while something of it plays and a button is held down, that is heard
 * instead, at the same place, for as long as it is held.
 */
const props = defineProps<{ around: number; pieceOf: (heard: Heard) => Piece | undefined }>()
const emit = defineEmits<{ hear: [heard: Heard]; handOver: [] }>()
const listening = useListening()

let timer: number | undefined
let before: Piece | undefined
let isHeld = false

function press(heard: Heard, event: PointerEvent) {
  if (event.button !== 0) return
  const playing = listening.isSounding ? listening.piece : undefined
  isHeld = false
  timer = window.setTimeout(() => {
    const piece = props.pieceOf(heard)
    if (!piece) return
    isHeld = true
    before = playing?.id === piece.id ? playing : undefined
    if (before) listening.renew(piece, listening.position)
    else listening.play(piece)
  }, HELD_MS)
  for (const end of ENDS) window.addEventListener(end, release)
}

function release() {
  window.clearTimeout(timer)
  for (const end of ENDS) window.removeEventListener(end, release)
  if (!isHeld) return
  // The click that follows a press that was held is none; where it ends elsewhere no click follows.
  window.setTimeout(() => (isHeld = false))
  if (before) listening.renew(before, listening.position)
  else listening.stop()
}

function click(heard: Heard) {
  if (!isHeld) emit('hear', heard)
}
</script>

<template>
  <span class="hear" role="group" aria-label="Listen">
    <Tooltip
      v-for="side in SIDES"
      :key="side.value"
      :title="`From ${around} beats before to ${around} after (${side.key}); held down, only as long as that`"
    >
      <Button
        :type="side.value === 'both' ? 'primary' : 'default'"
        :aria-label="side.name"
        @pointerdown="(e: PointerEvent) => press(side.value, e)"
        @click="click(side.value)"
      >
        <GlyphIcon name="play" :size="13" /> {{ side.label }}
      </Button>
    </Tooltip>
    <Tooltip title="Only where the one gives way to the other (H)">
      <Button aria-label="The hand-over alone" @click="emit('handOver')">Hand-over</Button>
    </Tooltip>
  </span>
</template>

<style scoped>
.hear {
  display: flex;
  gap: 4px;
}

.hear :deep(.ant-btn) {
  padding: 0 8px;
}

@media (max-width: 860px) {
  .hear {
    flex-wrap: wrap;
  }
}
</style>
