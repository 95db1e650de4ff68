<script setup lang="ts">
/** The small signs of the interface, drawn as strokes of the text's colour. */
const { name, size = 16 } = defineProps<{ name: keyof typeof PATHS; size?: number }>()
</script>

<script lang="ts">
const PATHS = {
  play: 'M5 3.500v9l7.500-4.500z',
  pause: 'M5 3.500v9M11 3.500v9',
  loop: 'M4 6.500a4.500 3.500 0 0 1 8-1.500M12 9.500a4.500 3.500 0 0 1-8 1.500M12.500 2.500V5H10M3.500 13.500V11H6',
  undo: 'M6 3.500 3 6.500l3 3M3.500 6.500H10a3 3 0 0 1 0 6H7',
  redo: 'M10 3.500l3 3-3 3M12.500 6.500H6a3 3 0 0 0 0 6h3',
  down: 'M4 6.500l4 4 4-4',
  left: 'M10 3.500L5.500 8l4.500 4.500',
  right: 'M6 3.500L10.500 8 6 12.500',
  plus: 'M8 3v10M3 8h10',
  minus: 'M3 8h10',
  close: 'M4 4l8 8M12 4l-8 8',
  search: 'M7 11.500a4.500 4.500 0 1 0 0-9 4.500 4.500 0 0 0 0 9zM10.500 10.500L14 14',
  more: 'M3.500 8h.01M8 8h.01M12.500 8h.01',
  grip: 'M6 4h.01M10 4h.01M6 8h.01M10 8h.01M6 12h.01M10 12h.01',
  flag: 'M4 14V3M4 3.500h7.500L9.500 6l2 2.500H4',
  sound: 'M3 6.500v3h2.500L9 12.500v-9L5.500 6.500zM11.500 6a3 3 0 0 1 0 4',
  check: 'M3.500 8.500l3 3 6-7',
  keys: 'M2.500 4.500h11v7h-11zM5 7h.01M8 7h.01M11 7h.01M5.500 9.500h5',
  pin: 'M5.500 2.500h5M6.500 2.500v4L4.500 9h7L9.500 6.500v-4M8 9v4.500',
  together: 'M6 3H3.500v10H6M10 3h2.500v10H10M7 8h2',
  save: 'M8 2.500v8M5 8l3 3 3-3M3 13.500h10',
} as const
</script>

<template>
  <svg
    class="glyph"
    viewBox="0 0 16 16"
    :width="size"
    :height="size"
    :fill="name === 'play' ? 'currentColor' : 'none'"
    stroke="currentColor"
    :stroke-width="name === 'pause' || name === 'grip' || name === 'more' ? 2.2 : 1.5"
    stroke-linecap="round"
    stroke-linejoin="round"
    aria-hidden="true"
  >
    <path :d="PATHS[name]" />
  </svg>
</template>

<style scoped>
.glyph {
  flex: none;
  vertical-align: -3px;
}

.glyph:not(:only-child) {
  margin-right: 5px;
}
</style>
