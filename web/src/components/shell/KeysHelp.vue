<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { Modal } from 'ant-design-vue'
import { useKeySets, type KeyBinding } from '../../composables/page/useKeys'

/** All keys that hold in the view that is open. */
const open = defineModel<boolean>('open', { required: true })
const sets = useKeySets()
// The dialog itself hears Escape only once it has the focus.
useEventListener('keydown', (event) => event.key === 'Escape' && (open.value = false))

const NAMES: Record<string, string> = {
  ' ': 'Space',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
}

function shown({ keys, shown }: KeyBinding): string {
  return shown ?? keys.map(nameOf).join(', ')
}

function nameOf(key: string): string {
  if (NAMES[key]) return NAMES[key]
  if (key.startsWith('ctrl+')) return `Ctrl ${key.slice(5).toUpperCase()}`
  if (key.length > 1) return key
  return key !== key.toLowerCase() ? `Shift ${key}` : key.toUpperCase()
}
</script>

<template>
  <Modal v-model:open="open" title="Keys" :footer="null" width="640px">
    <div class="sets">
      <section v-for="set in sets" :key="set.title">
        <h3>{{ set.title }}</h3>
        <dl>
          <template v-for="binding in set.bindings.filter((b) => b.label)" :key="binding.keys[0]">
            <dt>
              <kbd>{{ shown(binding) }}</kbd>
            </dt>
            <dd>{{ binding.label }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </Modal>
</template>

<style scoped>
.sets {
  columns: 2;
  column-gap: 28px;
}

section {
  break-inside: avoid;
  margin-bottom: 14px;
}

dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 12px;
  margin: 4px 0 0;
}

dd {
  margin: 0;
}

kbd {
  display: inline-block;
  min-width: 26px;
  padding: 0 5px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--sheet);
  font: inherit;
  font-size: 12px;
  text-align: center;
  white-space: nowrap;
}
</style>
