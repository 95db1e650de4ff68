import { computed, type Ref } from 'vue'
import type { Layer, PlannedLayer } from '../../api/types'
import { level } from '../../time/curve'
import { isLevel } from '../../time/curveEdit'
import { useEditingOf, type Curved } from '../transition/useCurveEditing'
import { useLaneList } from '../transition/useLaneList'
import { useControls } from '../page/useTables'

/** The lanes of a layer: the same controls as those of a transition, over the whole of its length. */
export function useLayerLanes(
  planned: Ref<PlannedLayer | undefined>,
  unit: Ref<number>,
  put: (layer: Layer) => Promise<boolean>,
) {
  const { data: controls } = useControls()
  const neutral = (control: string) => controls.value?.find((c) => c.control === control)?.neutral ?? 1
  const curved = computed<Curved>(() => {
    const layer = planned.value?.layer
    return {
      id: layer?.id ?? '',
      curveOf: (_, control) => layer?.curves[control] ?? level(neutral(control)),
      put: (lanes) => {
        if (!layer) return Promise.resolve(false)
        const drawn = Object.fromEntries(lanes.map(({ control, curve }) => [control, curve]))
        return put({ ...layer, curves: { ...layer.curves, ...drawn } })
      },
    }
  })
  const beats = () => (planned.value ? planned.value.end_beat - planned.value.start_beat : 1)
  const editing = useEditingOf(curved, beats, unit)
  const has = computed(() => !!planned.value && !planned.value.waits && !isHush(planned.value.layer))
  // A layer is one stem, or all of a track: its stems are not turned.
  const offered = computed(() => controls.value?.filter((c) => c.processor !== 'stem'))
  const list = useLaneList(
    offered,
    (spec) => !isLevel(planned.value?.layer.curves[spec.control], spec.neutral),
    has,
  )
  return { editing, ...list }
}

/** Whether a layer silences what it lies over, and has no sound to shape. */
export function isHush({ sound }: Layer): boolean {
  return sound.of === 'made' && sound.sound === 'hush'
}
