import { useEventListener } from '@vueuse/core'
import { ref, type Ref } from 'vue'

/** The largest and the smallest number of pixels for a beat. */
const LIMITS = { closest: 400, widest: 0.6 }

/** What part of the mix's beats, or of a track's seconds, is in view, and how it is moved: by wheel, pinch and keys. */
export function useSeamView(
  stage: Ref<HTMLElement | null | undefined>,
  width: Ref<number>,
  limits: { closest: number; widest: number } = LIMITS,
) {
  const from = ref(0)
  const perBeat = ref(10)

  const clamp = (pixels: number) => Math.min(limits.closest, Math.max(limits.widest, pixels))
  const xOf = (beat: number) => (beat - from.value) * perBeat.value
  const beatOf = (x: number) => from.value + x / perBeat.value

  /** Show a span of beats, as large as fits. */
  function fit(start: number, end: number) {
    if (!width.value) return
    perBeat.value = clamp(width.value / Math.max(1, end - start))
    from.value = (start + end) / 2 - width.value / 2 / perBeat.value
  }

  /** Show what was shown before. */
  function show(start: number, pixels: number) {
    perBeat.value = clamp(pixels)
    from.value = start
  }

  /** Make larger or smaller about a place. */
  function zoom(factor: number, aroundX = width.value / 2) {
    const beat = beatOf(aroundX)
    perBeat.value = clamp(perBeat.value * factor)
    from.value = beat - aroundX / perBeat.value
  }

  function pan(pixels: number) {
    from.value += pixels / perBeat.value
  }

  useEventListener(
    stage,
    'wheel',
    (event: WheelEvent) => {
      event.preventDefault()
      const left = stage.value!.getBoundingClientRect().left
      const unit = event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 24 : 1
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        pan((event.deltaX || event.deltaY) * unit)
      else zoom(Math.exp(-event.deltaY * unit * (event.ctrlKey ? 0.01 : 0.0022)), event.clientX - left)
    },
    { passive: false },
  )

  return { from, perBeat, xOf, beatOf, fit, show, zoom, pan }
}

export type SeamViewport = ReturnType<typeof useSeamView>
