<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useCanvas } from '../../composables/page/useCanvas'
import { useCourse } from '../../composables/mix/useCourse'
import { drawRibbon } from '../../drawing/course'

const COLUMNS = 600

/** A mix as a small ribbon, to know it by. */
const props = defineProps<{ mixId: string; changedAt: string }>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { data: course } = useCourse(
  computed(() => props.mixId),
  computed(() => props.changedAt),
  COLUMNS,
)

useCanvas(canvas, ({ context, width, height }) => {
  if (course.value?.entries.length) drawRibbon(context, width, 0, height, course.value)
})
</script>

<template>
  <canvas ref="canvas" class="ribbon" />
</template>

<style scoped>
.ribbon {
  display: block;
  width: 100%;
  height: 34px;
}
</style>
