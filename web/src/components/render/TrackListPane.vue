<script setup lang="ts">
import { Button, Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed } from 'vue'
import { useLocalStorage } from '@vueuse/core'
import type { ListFormat, Mix, PlannedTransition, TimesAt } from '../../api/types'
import { attempt } from '../../composables/page/attempt'
import { useCover } from '../../composables/export/useRenders'
import { useListForms } from '../../composables/page/useTables'
import { Clock } from '../../time/clock'
import { clockTime } from '../../time/format'
import ChooseFile from '../shared/ChooseFile.vue'
import PickField from '../shared/PickField.vue'

/** The tracks of the mix with their times, as a list to look at and as files. */
const props = defineProps<{ mix: Mix }>()

const TIMES: { value: TimesAt; label: string }[] = [
  { value: 'hand_over', label: 'where each takes over' },
  { value: 'first_sound', label: 'where each is first heard' },
  { value: 'alone', label: 'where each is alone' },
]
const { data: forms } = useListForms()
const cover = useCover(computed(() => props.mix.id))
const { changed, isOwn } = cover
const at = useLocalStorage<TimesAt>('fernbrook-times-at', 'hand_over')

const clock = computed(() => new Clock(props.mix.plan.clocks[0]!))
/** The moment at which the incoming takes over, as the files have it. */
const handOver = (t: PlannedTransition) =>
  t.end_beat <= t.start_beat ? t.end_s : clock.value.timeAt(t.hand_over_beat)

const rows = computed(() => {
  const { entries, transitions } = props.mix.plan
  return entries.map((entry, i) => {
    const t = transitions[i - 1]
    const start = !t
      ? Math.max(0, entry.start_s)
      : { first_sound: entry.start_s, hand_over: handOver(t), alone: t.end_s }[at.value]
    return { entry, start }
  })
})
const href = (form: ListFormat) => `/api/mixes/${props.mix.id}/track-list?form=${form}&at=${at.value}`
</script>

<template>
  <section class="list" aria-label="Track list">
    <h2>Track list</h2>
    <div class="how">
      <PickField v-model:value="at" label="Times" :options="TIMES" />
      <Dropdown :trigger="['click']">
        <Button size="small">Save as…</Button>
        <template #overlay>
          <Menu>
            <MenuItem v-for="f in forms" :key="f.form"
              ><a :href="href(f.form)" download>{{ f.label }}</a></MenuItem
            >
            <MenuItem key="card"
              ><a :href="`/api/mixes/${mix.id}/cue-card?kind=pdf`" download
                >Cue card to play it live, PDF</a
              ></MenuItem
            >
            <MenuItem key="card-html"
              ><a :href="`/api/mixes/${mix.id}/cue-card`" download>Cue card, HTML</a></MenuItem
            >
            <MenuDivider />
            <MenuItem key="jams"
              ><a :href="`/api/mixes/${mix.id}/jams`" download
                >JAMS of the mix: beats, keys, cues</a
              ></MenuItem
            >
            <MenuItem key="tracks-jams"
              ><a :href="`/api/mixes/${mix.id}/tracks-jams`" download>JAMS of each track, ZIP</a></MenuItem
            >
          </Menu>
        </template>
      </Dropdown>
    </div>
    <ol>
      <li v-for="row in rows" :key="row.entry.id">
        <span class="time">{{ clockTime(row.start) }}</span>
        <span class="clip">{{ row.entry.artist ? `${row.entry.artist} – ` : '' }}{{ row.entry.title }}</span>
      </li>
    </ol>
    <div class="picture">
      <img
        :src="`/api/mixes/${mix.id}/cover?version=${mix.version}-${changed}`"
        alt="The cover of the mix"
        class="cover"
      />
      <div>
        <p class="soft">
          {{ isOwn ? 'Your own picture' : 'Made from the mix overview' }}. It goes into the files.
        </p>
        <ChooseFile
          accept="image/png,image/jpeg,image/webp"
          label="Use a picture…"
          @choose="(file) => attempt(() => cover.choose(file))"
        />
        <Button v-if="isOwn" size="small" type="text" @click="attempt(cover.drop)">Back to the course</Button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.how {
  display: flex;
  gap: 8px;
  margin-bottom: 6px;
}

li {
  display: grid;
  grid-template-columns: 58px 1fr;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}

.time {
  color: var(--ink-soft);
}

.picture {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 14px;
  align-items: start;
  margin-top: 14px;
}

.picture p {
  margin: 0 0 6px;
}

.cover {
  width: 150px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
</style>
