<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { useSeparationModel } from '../../composables/track/useSeparationModel'

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
  <Modal v-model:open="open" title="How stems are split" :footer="null">
    <p>
      The built-in method takes the voice out by a trained network, finds drums by what repeats on the grid,
      and bass by its range. Drums and bass come apart well where the drums play alone somewhere in the track,
      and are rough elsewhere.
    </p>
    <p v-if="model && !model.hears_voices" class="problem">
      The network is not installed, so voices are found and split less well. Run <code>make demo</code> once
      with a connection to the internet to get it.
    </p>
    <p>
      You can use a <strong>separation model</strong> in ONNX format instead. The file stays where it is;
      nothing is downloaded. <code>docs/stems.md</code> says which inputs and outputs it needs.
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
      <Button v-if="model?.path" @click="use(null)">Use built-in method</Button>
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
