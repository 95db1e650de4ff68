import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import NumberField from './NumberField.vue'

function field(accepts = true) {
  const send = vi.fn().mockResolvedValue(accepts)
  const wrapper = mount(NumberField, { props: { value: 16, step: 1, min: 0, send }, attachTo: document.body })
  return { send, wrapper, input: wrapper.get('input') }
}

describe('a number field', () => {
  it('sends nothing while it is typed in, and once when it is done', async () => {
    const { send, input } = field()
    await input.trigger('focus')
    await input.setValue('1')
    await input.setValue('12')
    expect(send).not.toHaveBeenCalled()
    await input.trigger('keydown', { key: 'Enter', keyCode: 13 })
    await input.trigger('blur')
    await flushPromises()
    expect(send.mock.calls).toEqual([[12]])
  })

  it('goes back to what it was when the number is refused', async () => {
    const { input } = field(false)
    await input.setValue('900')
    await input.trigger('blur')
    await flushPromises()
    expect(input.element.value).toBe('16')
  })

  it('sends nothing when nothing has changed or nothing is there', async () => {
    const { send, input } = field()
    await input.trigger('focus')
    await input.trigger('blur')
    await input.setValue('')
    await input.trigger('blur')
    await flushPromises()
    expect(send).not.toHaveBeenCalled()
    expect(input.element.value).toBe('16')
  })

  it('sends what goes back to where it was while a change is on its way', async () => {
    const { send, wrapper, input } = field()
    for (const text of ['17', '16']) {
      await input.setValue(text)
      await input.trigger('blur')
    }
    expect(send.mock.calls).toEqual([[17], [16]])
    await wrapper.setProps({ value: 17 })
    await wrapper.setProps({ value: 16 })
    expect(input.element.value).toBe('16')
  })

  it('counts every step, also while the answers to earlier ones come in', async () => {
    const { send, wrapper, input } = field()
    const up = () => input.trigger('keydown', { key: 'ArrowUp' })
    await up()
    await up()
    await wrapper.setProps({ value: 17 })
    await up()
    await wrapper.setProps({ value: 18 })
    await up()
    expect(send.mock.calls.flat()).toEqual([17, 18, 19, 20])
    expect(input.element.value).toBe('20')
    await input.trigger('keydown', { key: 'ArrowDown', shiftKey: true })
    expect(send).toHaveBeenLastCalledWith(10)
  })

  it('goes with what it is of when that changes', async () => {
    const { send, wrapper, input } = field()
    await input.trigger('keydown', { key: 'ArrowUp' })
    await wrapper.setProps({ value: 40 })
    expect(input.element.value).toBe('40')
    await input.trigger('keydown', { key: 'ArrowUp' })
    expect(send.mock.calls.flat()).toEqual([17, 41])
  })

  it('takes a comma and a minus sign as people write them, and keeps within its range', async () => {
    const { send, input } = field()
    for (const text of ['7,5', '−4', 'x']) {
      await input.setValue(text)
      await input.trigger('blur')
    }
    expect(send.mock.calls.flat()).toEqual([7.5, 0])
  })

  it('steps on while a button is held', async () => {
    vi.useFakeTimers()
    const { send, wrapper } = field()
    await wrapper.get('button.more').trigger('pointerdown', { button: 0 })
    await vi.advanceTimersByTimeAsync(700)
    window.dispatchEvent(new Event('pointerup'))
    await vi.advanceTimersByTimeAsync(700)
    vi.useRealTimers()
    expect(send.mock.calls.flat()).toEqual([17, 18, 19, 20])
  })

  it('follows the value from outside', async () => {
    const { wrapper, input } = field()
    await wrapper.setProps({ value: 8.25 })
    expect(input.element.value).toBe('8.25')
  })
})
