import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { useDrafts } from './useDrafts'

describe('drafts', () => {
  it('are built upon before the server has answered, and leave when it has', async () => {
    const stored = ref([{ id: 'a', at: 4 }])
    const { all, put } = useDrafts(stored)
    const answers: (() => void)[] = []
    const send = () => new Promise<boolean>((resolve) => answers.push(() => resolve(true)))

    const first = put([{ ...all.value[0]!, at: all.value[0]!.at + 1 }], send)
    const second = put([{ ...all.value[0]!, at: all.value[0]!.at + 1 }], send)
    const third = put([{ id: 'b', at: 9 }], send)
    expect(all.value).toEqual([{ id: 'a', at: 6 }, { id: 'b', at: 9 }]) // prettier-ignore
    stored.value = [{ id: 'a', at: 5 }]
    answers[0]!()
    await first
    expect(all.value[0]!.at).toBe(6)
    stored.value = [{ id: 'a', at: 6 }]
    answers[1]!()
    answers[2]!()
    await Promise.all([second, third])
    expect(all.value).toEqual([{ id: 'a', at: 6 }])
  })

  it('that are refused show what there is', async () => {
    const { all, put } = useDrafts(ref([{ id: 'a', at: 4 }]))
    expect(await put([{ id: 'a', at: 8 }], () => Promise.resolve(false))).toBe(false)
    expect(all.value).toEqual([{ id: 'a', at: 4 }])
  })
})
