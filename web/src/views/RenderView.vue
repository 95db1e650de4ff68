<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed, nextTick, shallowRef, useTemplateRef, watch } from 'vue'
import { isOpen } from '../composables/page/jobs'
import { attempt } from '../composables/page/attempt'
import { useRoute } from 'vue-router'
import type { OutputFormat, Rendered } from '../api/types'
import CourseRibbon from '../components/shared/CourseRibbon.vue'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import WarningList from '../components/shared/WarningList.vue'
import BundleBox from '../components/render/BundleBox.vue'
import PublishBox from '../components/render/PublishBox.vue'
import PublishedLine from '../components/render/PublishedLine.vue'
import RenderForm from '../components/render/RenderForm.vue'
import TrackListPane from '../components/render/TrackListPane.vue'
import MixStates from '../components/shell/MixStates.vue'
import { mixPiece } from '../sound/pieces'
import { useFormats } from '../composables/page/useTables'
import { useRenderActions, useRenders } from '../composables/export/useRenders'
import { useWarnings } from '../composables/mix/useWarnings'
import { usePublishing } from '../composables/export/usePublishing'
import { RATE } from '../sound/player'
import { useListening } from '../stores/listening'
import { useMix } from '../stores/mix'
import { clockTime, megabytes } from '../time/format'

const WORDS: Record<Rendered['state'], string> = {
  waiting: 'waits its turn',
  running: 'under way',
  done: 'ready',
  failed: 'failed',
  cancelled: 'cancelled',
  interrupted: 'interrupted',
}

const route = useRoute()
const mix = useMix()
const listening = useListening()
const mixId = computed(() => String(route.params.mix))
const { data: renders } = useRenders(mixId)
const warnings = useWarnings()
const actions = useRenderActions(mixId)
const { data: formats } = useFormats()
const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))
const when = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})
const OF: Record<Rendered['what'], string> = {
  mix: '',
  teaser: 'Teaser, ',
  tracks: 'One file a track, ',
  lanes: 'Lanes, ',
}
const publishing = usePublishing(mixId)
const publishes = shallowRef<Rendered>()
const isOneFile = (render: Rendered) => render.what === 'mix' || render.what === 'teaser'
const labelOf = (id: OutputFormat) => formats.value?.find((f) => f.id === id)?.label ?? id
const nameOf = (render: Rendered) => `${OF[render.what]}${labelOf(render.output)}`

const files = useTemplateRef<HTMLElement>('files')
const newest = computed(() => renders.value && (renders.value[0]?.id ?? ''))
// A file that has just been begun is seen to go on, however long the page is.
watch(newest, async (now, before) => {
  if (!now || renders.value?.[0]?.state === 'done' || before === undefined) return
  await nextTick()
  files.value?.firstElementChild?.nextElementSibling?.scrollIntoView({ block: 'nearest' })
})

function hear(seconds: number) {
  if (mix.mix) listening.play(mixPiece(mix.mix), Math.round(seconds * RATE))
}

function left(render: Rendered) {
  if (!render.seconds || render.progress < 0.02) return ''
  return `${clockTime((render.seconds / render.progress) * (1 - render.progress))} left`
}
</script>

<template>
  <MixStates>
    <div class="render">
      <CourseRibbon
        v-if="mix.plan?.entries.length"
        class="course"
        :chosen="undefined"
        :playhead="playhead"
        @choose="(i) => hear(Math.max(0, mix.plan!.transitions[i]!.start_s - 8))"
        @listen="hear"
      />
      <div class="columns">
        <section>
          <h2>Render the mix</h2>
          <p v-if="!mix.plan?.entries.length" class="soft">
            The mix is empty. Put tracks into its
            <RouterLink :to="{ name: 'order', params: route.params }">running order</RouterLink> first.
          </p>
          <template v-else>
            <RenderForm
              :plan="mix.plan"
              @render="(wish) => attempt(() => actions.start(wish))"
              @hear="hear(0)"
            />
          </template>
          <div v-if="renders?.length" ref="files" class="files">
            <h2>Files</h2>
            <article v-for="render in renders" :key="render.id" class="file" :data-state="render.state">
              <div class="file-head">
                <strong>{{ nameOf(render) }}</strong>
                <span class="soft"
                  >{{ when.format(new Date(render.created_at)) }} · {{ clockTime(render.duration_s) }}</span
                >
                <span v-if="render.bytes" class="soft">{{ megabytes(render.bytes) }}</span>
                <span class="state" :class="render.state">{{ WORDS[render.state] }}</span>
              </div>
              <div v-if="render.state === 'running' || render.state === 'waiting'" class="under-way">
                <Progress
                  class="even"
                  :percent="Math.floor(render.progress * 100)"
                  :aria-label="`Rendering ${nameOf(render)}`"
                />
                <span class="soft speed"
                  >{{ render.stage === 'measuring' ? 'measuring,' : '' }}
                  {{ render.speed ? `${render.speed.toFixed(0)} × real time` : '' }} {{ left(render) }}</span
                >
                <Button size="small" @click="attempt(() => actions.cancel(render.id))">Cancel</Button>
              </div>
              <p v-else-if="render.error" class="bad">{{ render.error }}</p>
              <div v-if="render.state === 'done'" class="links">
                <Button size="small" type="primary" :href="`/api/renders/${render.id}/file`" download
                  ><GlyphIcon name="save" /> Download</Button
                >
                <Button size="small" :href="`/api/renders/${render.id}/track-list`" download
                  >Track list</Button
                >
                <Button v-if="isOneFile(render)" size="small" @click="publishes = render">Publish…</Button>
                <span class="soft">made at {{ render.speed?.toFixed(0) }} × real time</span>
                <Button
                  size="small"
                  type="text"
                  class="delete"
                  @click="attempt(() => actions.remove(render.id))"
                  >Delete</Button
                >
              </div>
              <PublishedLine
                v-for="p in publishing.of(render.id)"
                :key="p.id"
                :published="p"
                @cancel="publishing.cancel(p.id)"
                @retry="publishing.retry(p.id)"
                @forget="publishing.forget(p.id)"
              />
              <div v-if="!isOpen(render) && render.state !== 'done'" class="links">
                <Button size="small" @click="attempt(() => actions.retry(render.id))">Try again</Button>
                <Button
                  size="small"
                  type="text"
                  class="delete"
                  @click="attempt(() => actions.remove(render.id))"
                  >Delete</Button
                >
              </div>
            </article>
          </div>
          <div v-if="warnings.length" class="look">
            <h3>Warnings</h3>
            <WarningList :warnings="warnings" places />
          </div>
        </section>
        <div v-if="mix.mix && mix.plan?.entries.length">
          <TrackListPane :mix="mix.mix" />
          <BundleBox :mix-id="mix.mix.id" />
        </div>
      </div>
      <PublishBox
        :open="!!publishes"
        :title="publishes?.name ?? ''"
        :host="publishing.host.value"
        @update:open="publishes = undefined"
        @publish="(wish) => publishes && publishing.publish(publishes.id, wish)"
        @forget="publishing.forgetToken"
      />
    </div>
  </MixStates>
</template>

<style scoped>
.course {
  border-bottom: 1px solid var(--line);
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 40px;
  padding: 20px 28px;
}

h2 {
  margin-bottom: 10px;
}

.look {
  margin-top: 18px;
}

.look h3 {
  margin-bottom: 6px;
}

.files {
  margin-top: 26px;
}

.file {
  padding: 10px 14px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.file + .file {
  margin-top: 8px;
}

.file-head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}

.state {
  margin-left: auto;
  color: var(--ink-soft);
}

.state.done {
  color: var(--fern);
  font-weight: 600;
}

.state.failed,
.state.interrupted,
.bad {
  margin: 6px 0 0;
}

.under-way {
  display: grid;
  grid-template-columns: 1fr 190px auto;
  align-items: center;
  gap: 14px;
}

.speed {
  white-space: nowrap;
}

.links {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 8px;
}

.delete {
  margin-left: auto;
  color: var(--ink-soft);
}

@media (max-width: 860px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
    gap: 20px;
    padding: 16px;
  }
}
</style>
