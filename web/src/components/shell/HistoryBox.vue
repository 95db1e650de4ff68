<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { Button, Drawer } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, data } from '../../api/client'
import { planOf } from '../../api/mixOf'
import { attempt } from '../../composables/page/attempt'
import { mixPiece } from '../../sound/pieces'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import TextField from '../shared/TextField.vue'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** All that was done to the mix: when, to be heard, named, and gone back to. Nothing is thrown away by an undo. */
const open = defineModel<boolean>('open', { required: true })
const mix = useMix()
const listening = useListening()
const client = useQueryClient()
const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'short', timeStyle: 'short' })
const onlyNamed = ref(false)

const queryKey = computed(() => ['history', mix.mix?.id, mix.mix?.version])
const path = (step?: number) => ({ mix_id: mix.mix!.id, step: step ?? 0 })
const { data: steps } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/api/mixes/{mix_id}/history', { params: { path: path() } })),
  enabled: computed(() => open.value && !!mix.mix),
})
const shown = computed(() => (steps.value ?? []).filter((s) => !onlyNamed.value || s.name || s.is_here))

function name(step: number, text: string) {
  return attempt(async () => {
    const request = { params: { path: path(step) }, body: { name: text } }
    await data(api.PUT('/api/mixes/{mix_id}/history/{step}/name', request))
    await client.invalidateQueries({ queryKey: queryKey.value })
  })
}

/** Hear the mix as it was, from the same moment on. */
function hear(step: number) {
  return attempt(async () => {
    const request = { params: { path: path(step) } }
    const trial = await data(api.POST('/api/mixes/{mix_id}/history/{step}/trial', request))
    const piece = mixPiece({ ...mix.mix!, plan: planOf(trial.plan) })
    const now = Math.round((listening.secondsIn('mix', mix.mix!.id) ?? 0) * RATE)
    listening.play(
      {
        ...piece,
        id: `${piece.id} tried as ${trial.id}`,
        label: `${piece.label}, as it was`,
        url: (from) => `${piece.url(from)}&trial=${trial.id}`,
        again: undefined,
      },
      Math.min(now, piece.end - RATE),
    )
  })
}
</script>

<template>
  <Drawer v-model:open="open" title="History of this mix" :width="440">
    <label class="only"><input v-model="onlyNamed" type="checkbox" /> only points with a name</label>
    <ol class="steps" aria-label="Steps">
      <li v-for="step in shown" :key="step.id" :class="{ here: step.is_here, left: !step.in_line }">
        <div class="what">
          <strong v-if="step.is_here">now</strong>
          <span class="label">{{ step.label }}</span>
          <span class="faint"
            >{{ when.format(new Date(step.at)) }}{{ step.in_line ? '' : ' · on a way that was left' }}</span
          >
        </div>
        <TextField
          :value="step.name"
          :label="`Name of step ${step.id}`"
          :longest="80"
          placeholder="name this point"
          @send="(text) => name(step.id, text)"
        />
        <div class="acts">
          <Button
            size="small"
            :aria-label="`Hear step ${step.id}`"
            title="Hear it as it was"
            @click="hear(step.id)"
            ><GlyphIcon name="play" :size="11"
          /></Button>
          <Button v-if="!step.is_here" size="small" @click="mix.goTo(step.id)">Go there</Button>
        </div>
      </li>
    </ol>
  </Drawer>
</template>

<style scoped>
.only {
  display: flex;
  gap: 6px;
  margin-bottom: 8px;
}

li {
  display: grid;
  grid-template-columns: 1fr 130px auto;
  align-items: center;
  gap: 8px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}

.what {
  display: flex;
  flex-direction: column;
  line-height: 1.3;
}

.here strong {
  color: var(--fern);
}

.left .label {
  color: var(--ink-soft);
}

.acts {
  display: flex;
  gap: 4px;
}
</style>
