import { useQuery } from '@tanstack/vue-query'
import { createSharedComposable } from '@vueuse/core'
import { api, data } from '../../api/client'

/** What the server says once and the page follows: it does not change while the page is open. */
const LASTING = { staleTime: Infinity, gcTime: Infinity }

/** The controls of a transition, in the order in which they are shown. */
export const useControls = createSharedComposable(() =>
  useQuery({ queryKey: ['controls'], queryFn: () => data(api.GET('/api/controls')), ...LASTING }),
)

/** The kinds of files that a mix can be rendered to, the default first. */
export function useFormats() {
  return useQuery({ queryKey: ['formats'], queryFn: () => data(api.GET('/api/formats')), ...LASTING })
}

/** The sounds that can be made for layers, in the order in which they are offered. */
export function useMadeSounds() {
  return useQuery({ queryKey: ['made-sounds'], queryFn: () => data(api.GET('/api/made-sounds')), ...LASTING })
}

/** The forms that a track list can have. */
export function useListForms() {
  return useQuery({ queryKey: ['list-forms'], queryFn: () => data(api.GET('/api/list-forms')), ...LASTING })
}

/** The ready-made shapes of energy that an order may have. */
export function useShapes() {
  return useQuery({
    queryKey: ['shapes'],
    queryFn: () => data(api.GET('/api/energy-shapes')),
    select: (shapes) =>
      Object.fromEntries(
        Object.entries(shapes).map(([shape, points]) => [
          shape,
          points.map(({ at, level }) => [at, level] as const),
        ]),
      ),
    ...LASTING,
  })
}
