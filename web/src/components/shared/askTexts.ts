import { Input, Modal } from 'ant-design-vue'
import { h, ref, type VNode } from 'vue'

/** A line that is asked for. */
export interface AskedText {
  label: string
  value?: string
  maxLength: number
  placeholder?: string
  /** What is said where it was left empty; without it, it may be. */
  needed?: string
}

interface Asked {
  title: string
  ok: string
  fields: AskedText[]
  /** Use what was typed, without spaces around it, in the order of the fields. */
  use: (texts: string[]) => unknown
}

/**
 * Ask for one or several lines of text in a dialog. What is there already is chosen, so that one types over it; Enter is
 * as good as the button; what may not be empty says so, and the dialog stays.
 */
export function askTexts({ title, ok, fields, use }: Asked): void {
  const texts = fields.map((field) => field.value ?? '')
  const missing = ref<number>()
  const inputs: HTMLInputElement[] = []

  function submit(close: () => void) {
    const empty = fields.findIndex((field, i) => field.needed !== undefined && !texts[i]!.trim())
    missing.value = empty < 0 ? undefined : empty
    if (empty >= 0) return inputs[empty]?.focus()
    close()
    use(texts.map((text) => text.trim()))
  }

  const line = (field: AskedText, i: number): VNode[] => [
    h(Input, {
      class: 'asked-text',
      defaultValue: field.value,
      maxlength: field.maxLength,
      placeholder: field.placeholder,
      status: missing.value === i ? 'error' : '',
      'aria-label': field.label,
      'aria-invalid': missing.value === i,
      onChange: (event: Event) => (texts[i] = (event.target as HTMLInputElement).value),
      onPressEnter: () => submit(() => dialog.destroy()),
      onVnodeMounted: ({ el }) => {
        inputs[i] = el as HTMLInputElement
        if (i === 0) requestAnimationFrame(() => (inputs[0]!.focus(), inputs[0]!.select()))
      },
    }),
    ...(missing.value === i ? [h('p', { class: 'bad', role: 'alert' }, field.needed)] : []),
  ]

  const dialog = Modal.confirm({
    title,
    okText: ok,
    autoFocusButton: null,
    content: () => h('div', fields.flatMap(line)),
    onOk: submit,
  })
}
