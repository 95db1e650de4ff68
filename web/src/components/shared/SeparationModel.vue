<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { useSeparationModel } from '../../composables/useSeparationModel'

/** By what tracks are taken apart, and where a model of one's own is named. */
const open = defineModel<boolean>('open', { required: true })
const { model, use } = useSeparationModel()
const path = ref('')
watch(
  () => [open.value, model.value?.path] as const,
  ([, known]) => (path.value = known ?? ''),
)
</script>

<template>
  <Modal v-model:open="open" title="How tracks are taken apart" :footer="null">
    <p>
      Fernbrook does it by itself: drums are what recurs on the grid, the bass lies below the rest, a voice is
      turned down where somebody sings. It is good where the drums are alone somewhere, and rough elsewhere.
    </p>
    <p>
      If you have a <strong>separation model</strong> as an ONNX file, it is used instead. It stays where it
      is; nothing is fetched. What it must take and give is written down in <code>docs/stems.md</code>.
    </p>
    <Input
      v-model:value="path"
      aria-label="Path of the model"
      placeholder="/home/you/models/separation.onnx"
      @press-enter="use(path || null)"
    />
    <p v-if="model?.problem" class="problem" role="alert">{{ model.problem }}</p>
    <p v-else-if="model?.path" role="status">In use. It gives {{ model.stems.join(', ') }}.</p>
    <div class="acts">
      <Button type="primary" :disabled="!path || path === model?.path" @click="use(path)"
        >Use this model</Button
      >
      <Button v-if="model?.path" @click="use(null)">Without a model</Button>
    </div>
  </Modal>
</template>

<style scoped>
.problem {
  color: var(--warn);
}

.acts {
  display: flex;
  gap: 8px;
  margin-top: 12px;
}
</style>
