import { ref, watch } from 'vue'
import { useMix } from '../../stores/mix'
import { useKeys, type Press } from '../page/useKeys'
import { useShapes } from './useShapes'
import type { TransitionState } from './useTransition'

/** The commonest moves in a transition, by key: the incoming, the length, the shape, takes. */
export function useTransitionKeys(
  { planned, pair, placing, t, bar }: TransitionState,
  options: { compare: () => void },
) {
  const mix = useMix()
  const { shapes } = useShapes()

  /** The shape that was put on last, of all that there are; none on a transition that has just been come to. */
  const last = ref(-1)
  watch(
    () => `${t.value.out_id} ${t.value.in_id}`,
    () => (last.value = -1),
  )

  function nextShape(by: number) {
    const all = [
      ...(shapes.value?.ready.map((r) => r.shape) ?? []),
      ...(shapes.value?.saved.map((s) => s.shape) ?? []),
    ]
    if (!all.length) return
    last.value = last.value < 0 && by < 0 ? all.length - 1 : (last.value + by + all.length) % all.length
    void mix.send({ kind: 'apply_shape', ...pair.value, shape: all[last.value]! })
  }

  function saveTake() {
    if (!planned.value.takes.some((take) => take.is_this))
      void mix.send({ kind: 'keep_take', ...pair.value, name: '' })
  }

  const sign = (event: Press, less: string) => (event.key === less ? -1 : 1)

  useKeys('This transition', [
    {
      keys: ['ArrowLeft', 'ArrowRight'],
      label: 'The incoming earlier, later by a bar; with shift, by a beat',
      run: (event) => placing.nudge('incoming', sign(event, 'ArrowLeft'), event.shiftKey ? 1 : bar.value),
    },
    {
      keys: ['[', ']'],
      label: 'A bar shorter, longer',
      run: (event) => placing.nudge('end', sign(event, '['), bar.value),
    },
    {
      keys: ['{', '}'],
      label: 'A beat shorter, longer',
      run: (event) => placing.nudge('end', sign(event, '{'), 1),
    },
    {
      keys: ['s'],
      label: 'Next shape; with shift, the one before',
      run: (event) => nextShape(event.shiftKey ? -1 : 1),
    },
    { keys: ['t'], label: 'Save take', run: saveTake },
    {
      keys: ['c'],
      label: 'Compare takes',
      run: () => planned.value.takes.length && options.compare(),
    },
  ])
}
