/** For tests: a canvas context that notes what is filled, with its colour. */
export interface Filled {
  x: number
  y: number
  width: number
  height: number
  style: string
}

export function recordingContext() {
  const rects: Filled[] = []
  const images: { x: number; y: number; width: number; height: number }[] = []
  const path: [number, number][] = []
  const context = {
    fillStyle: '',
    strokeStyle: '',
    lineWidth: 1,
    fillRect(x: number, y: number, width: number, height: number) {
      rects.push({ x, y, width, height, style: this.fillStyle })
    },
    drawImage(_: unknown, x: number, y: number, width: number, height: number) {
      images.push({ x, y, width, height })
    },
    beginPath: () => undefined,
    moveTo: (x: number, y: number) => void path.push([x, y]),
    lineTo: (x: number, y: number) => void path.push([x, y]),
    closePath: () => undefined,
    fill: () => undefined,
    stroke: () => undefined,
  }
  return { context: context as unknown as CanvasRenderingContext2D, rects, images, path }
}
