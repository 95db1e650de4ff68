<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { Button, Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { useKeySets } from '../../composables/page/useKeys'
import { isChanged, keyName, namesNow } from '../../composables/page/keyChanges'
import { useKeyLearning } from '../../composables/page/useKeyLearning'

/** All keys that hold in the view that is open, and other keys for them. */
const open = defineModel<boolean>('open', { required: true })
const sets = useKeySets()
const learning = useKeyLearning(sets)
const { at, met } = learning

// The dialog itself hears Escape only once it has the focus.
useEventListener('keydown', (event) => event.key === 'Escape' && !at.value && (open.value = false))

const shown = computed(() =>
  sets.value.map(({ title, bindings }) => ({
    title,
    rows: bindings
      .filter((b) => b.label)
      .map((b) => ({
        label: b.label!,
        fixed: b.shown,
        keys: b.keys.map((key) => ({ title, key, label: b.label! })),
      })),
  })),
)
</script>

<template>
  <Modal v-model:open="open" title="Keys" width="720px" @after-close="learning.leave()">
    <div class="sets">
      <section v-for="set in shown" :key="set.title">
        <h3>{{ set.title }}</h3>
        <dl>
          <template v-for="row in set.rows" :key="row.label">
            <dt>
              <kbd v-if="row.fixed">{{ row.fixed }}</kbd>
              <template v-else>
                <button
                  v-for="place in row.keys"
                  :key="place.key"
                  type="button"
                  class="key"
                  :aria-label="`Key for ‘${row.label}’: ${namesNow(place).map(keyName).join(' or ')}`"
                  :aria-pressed="at?.title === place.title && at.key === place.key"
                  :data-changed="isChanged(place)"
                  @click="learning.begin(place)"
                >
                  {{ namesNow(place).map(keyName).join(' or ') }}
                </button>
              </template>
            </dt>
            <dd>{{ row.label }}</dd>
          </template>
        </dl>
      </section>
    </div>
    <template #footer>
      <div class="foot">
        <p v-if="met" class="say" role="status">
          <strong>{{ keyName(met.name) }}</strong> is ‘{{ met.other.label }}’ in this view.
          <Button size="small" type="primary" @click="learning.swap()">Swap the two</Button>
          <Button size="small" @click="learning.begin(met.place)">Another key</Button>
        </p>
        <p v-else-if="at" class="say" role="status">
          Press the new key for ‘{{ at.label }}’{{
            learning.midi.value === 'there' ? ', or strike a pad' : ''
          }}.
          <Button v-if="isChanged(at)" size="small" @click="learning.reset()"
            >Back to {{ keyName(at.key) }}</Button
          >
          <Button size="small" @click="learning.leave()">Leave it</Button>
        </p>
        <p v-else class="say soft">Click on a key to change it. It stays so on this machine.</p>
        <Button
          v-if="learning.midi.value !== 'there'"
          size="small"
          :disabled="learning.midi.value === 'none'"
          @click="learning.askForMidi()"
          >{{
            learning.midi.value === 'none' ? 'This browser has no MIDI to offer' : 'Use a MIDI controller'
          }}</Button
        >
        <Button size="small" :disabled="!learning.areSomeChanged()" @click="learning.resetAll()"
          >Set all keys back</Button
        >
      </div>
    </template>
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

dt {
  display: flex;
  align-items: start;
  gap: 3px;
}

dd {
  margin: 0;
}

.key,
kbd {
  display: inline-block;
  min-width: 26px;
  padding: 0 5px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--sheet);
  color: inherit;
  font: inherit;
  font-size: 12px;
  text-align: center;
  white-space: nowrap;
}

kbd {
  border-style: dotted;
}

.key {
  cursor: pointer;
}

.key:hover,
.key[aria-pressed='true'] {
  border-color: var(--fern);
  color: var(--fern);
}

.key[data-changed='true'] {
  font-weight: 700;
}

.foot {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 32px;
  text-align: left;
}

.say {
  flex: 1;
  margin: 0;
}
</style>
