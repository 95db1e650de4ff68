import { createSharedComposable } from '@vueuse/core'
import { computed } from 'vue'
import { useMix } from '../../stores/mix'
import { useCourse } from './useCourse'

/** Columns in which the whole mix is drawn, wherever it is. */
export const COURSE_COLUMNS = 1200

/** All that is to be looked at in the mix that is open: what its plan says, and what its course says of the limiter. */
export const useWarnings = createSharedComposable(() => {
  const mix = useMix()
  const { data: course } = useCourse(
    computed(() => mix.mix?.id),
    computed(() => mix.mix?.version),
    COURSE_COLUMNS,
  )
  return computed(() => [...(mix.plan?.warnings ?? []), ...(course.value?.warnings ?? [])])
})
