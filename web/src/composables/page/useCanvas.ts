import { createSharedComposable, useDevicePixelRatio, useResizeObserver } from '@vueuse/core'
import { ref, watchEffect, type Ref } from 'vue'

export interface Surface {
  context: CanvasRenderingContext2D
  /** CSS pixels. */
  width: number
  height: number
  ratio: number
}

const useRatio = createSharedComposable(useDevicePixelRatio)

/**
 * Draw on a canvas that fills its box, sharp on any screen. `draw` runs again, once a frame at most, whenever something
 * reactive that it read has changed.
 */
export function useCanvas(
  canvas: Ref<HTMLCanvasElement | undefined | null>,
  draw: (surface: Surface) => void,
) {
  const [width, height] = [ref(0), ref(0)]
  // Told of after the layout: asked for when it is mounted, each canvas would have the whole page laid out at once.
  useResizeObserver(canvas, ([entry]) => {
    width.value = entry!.contentRect.width
    height.value = entry!.contentRect.height
  })
  const { pixelRatio } = useRatio()
  watchEffect(
    () => {
      const element = canvas.value
      const context = element?.getContext('2d')
      if (!element || !context || !width.value || !height.value) return
      const ratio = pixelRatio.value
      const w = Math.round(width.value * ratio)
      const h = Math.round(height.value * ratio)
      if (element.width !== w) element.width = w
      if (element.height !== h) element.height = h
      context.setTransform(ratio, 0, 0, ratio, 0, 0)
      context.clearRect(0, 0, width.value, height.value)
      draw({ context, width: width.value, height: height.value, ratio })
    },
    { flush: 'post' },
  )
  return { width, height }
}
