import { useDevicePixelRatio, useElementSize } from '@vueuse/core'
import { watchEffect, type Ref } from 'vue'

export interface Surface {
  context: CanvasRenderingContext2D
  /** CSS pixels. */
  width: number
  height: number
  ratio: number
}

/**
 * Draw on a canvas that fills its box, sharp on any screen. `draw` runs again, once a frame at most, whenever something
 * reactive that it read has changed.
 */
export function useCanvas(
  canvas: Ref<HTMLCanvasElement | undefined | null>,
  draw: (surface: Surface) => void,
) {
  const { width, height } = useElementSize(canvas)
  const { pixelRatio } = useDevicePixelRatio()
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
