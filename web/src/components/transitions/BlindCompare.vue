<script setup lang="ts">
import { Button, Modal, Spin } from 'ant-design-vue'
import { onBeforeUnmount, ref, watch } from 'vue'
import { useTransition } from '../../composables/transition/useTransition'
import { useMix } from '../../stores/mix'
import { useBlind } from '../../composables/transition/useBlind'

/** Takes heard under letters, at one loudness; which is which is told when one is chosen. */
const props = defineProps<{ around: number }>()
const open = defineModel<boolean>('open', { required: true })
const mix = useMix()
const { planned, pair } = useTransition()

const blind = useBlind()
const chosen = ref<string>()

watch(open, (isOpen) => {
  chosen.value = undefined
  if (isOpen) void blind.begin(planned.value, props.around)
  else blind.end()
})
onBeforeUnmount(blind.end)

function nameOf(number: number) {
  const take = planned.value.takes.find((t) => t.number === number)
  return take?.name || `Take ${number}`
}

function key(event: KeyboardEvent) {
  const take = blind.takes.value.find((t) => t.letter === event.key.toUpperCase())
  if (take && !event.ctrlKey && !event.metaKey) {
    event.stopPropagation()
    blind.hear(take.letter)
  }
}

function use() {
  const take = blind.takes.value.find((t) => t.letter === chosen.value)
  open.value = false
  if (take) void mix.send({ kind: 'use_take', ...pair.value, number: take.number })
}
</script>

<template>
  <Modal v-model:open="open" title="Compare by ear" :footer="null" :width="460">
    <div class="compare" @keydown="key">
      <p class="soft">
        The takes in an order that nobody knows, all at the loudness of the softest. Each goes on where the
        other is.
      </p>
      <p v-if="blind.isPreparing.value" role="status"><Spin size="small" /> Bringing all to one loudness…</p>
      <div v-else class="takes" role="group" aria-label="Takes, without their names">
        <div v-for="take in blind.takes.value" :key="take.letter" class="take">
          <Button
            size="large"
            :type="blind.now.value === take.letter ? 'primary' : 'default'"
            :aria-pressed="blind.now.value === take.letter"
            :title="`Hear it (${take.letter})`"
            @click="blind.hear(take.letter)"
            >{{ take.letter }}</Button
          >
          <span v-if="chosen" class="name">{{ nameOf(take.number) }}</span>
          <Button v-else type="link" size="small" @click="chosen = take.letter">this one</Button>
        </div>
      </div>
      <p v-if="chosen" class="told" role="status">
        {{ chosen }} is
        <strong>{{ nameOf(blind.takes.value.find((t) => t.letter === chosen)!.number) }}</strong>.
        <Button type="primary" size="small" @click="use">Use it</Button>
        <Button size="small" @click="open = false">Leave all as it is</Button>
      </p>
    </div>
  </Modal>
</template>

<style scoped>
.takes {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  margin: 12px 0;
}

.take {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 4px;
  min-width: 64px;
}

.name {
  font-size: 12px;
}

.told {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
