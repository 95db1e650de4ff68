<script setup lang="ts">
import { Button, Skeleton } from 'ant-design-vue'
import { useRouter } from 'vue-router'
import BackupBox from '../components/start/BackupBox.vue'
import UnderWayCard from '../components/start/UnderWayCard.vue'
import ChooseFile from '../components/shared/ChooseFile.vue'
import FilePicker from '../components/shared/FilePicker.vue'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import RibbonPicture from '../components/shared/RibbonPicture.vue'
import ArrivalTray from '../components/tracks/ArrivalTray.vue'
import { attempt } from '../composables/page/attempt'
import { useBundleOpening } from '../composables/export/useBundles'
import { useMixActions, useMixes } from '../composables/mix/useMixes'
import { useTracks } from '../composables/library/useTracks'
import { clockTime } from '../time/format'

const router = useRouter()
const { data: mixes, tries, isPending, error, refetch } = useMixes()
const { data: tracks } = useTracks()
const actions = useMixActions()
const { bring } = useBundleOpening()

const when = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})

const create = () =>
  attempt(async () => {
    const mix = await actions.create('New mix')
    await router.push({ name: 'order', params: { mix: mix.id } })
  })
const throwAway = (id: string) => attempt(() => actions.remove(id))
</script>

<template>
  <section class="start">
    <header>
      <h1>Mixes</h1>
      <span class="acts">
        <ChooseFile accept=".zip" label="Open a bundle…" @choose="bring" />
        <Button type="primary" @click="create"><GlyphIcon name="plus" /> New mix</Button>
      </span>
    </header>
    <UnderWayCard />
    <Skeleton v-if="isPending" active :paragraph="{ rows: 3 }" />
    <div v-else-if="error" class="note" role="alert">
      The list of mixes could not be loaded. {{ error.message }}
      <Button size="small" @click="refetch()">Try again</Button>
    </div>
    <ul v-else-if="mixes?.length" class="mixes">
      <li v-for="mix in mixes" :key="mix.id">
        <RouterLink :to="{ name: (mix.entries ?? 2) > 1 ? 'transitions' : 'order', params: { mix: mix.id } }">
          <span class="words">
            <span class="name clip" :title="mix.name">{{ mix.name }}</span>
            <span class="soft facts">
              <template v-if="mix.entries === null">…</template>
              <template v-else>{{ mix.entries }} {{ mix.entries === 1 ? 'track' : 'tracks' }}</template>
              <template v-if="mix.entries && mix.duration_s !== null">
                · {{ clockTime(mix.duration_s) }}</template
              >
            </span>
            <span class="soft date">{{ when.format(new Date(mix.changed_at)) }}</span>
          </span>
          <span v-if="mix.problem" class="bad">{{ mix.problem }}</span>
          <RibbonPicture v-else-if="mix.entries !== 0" :mix-id="mix.id" :changed-at="mix.changed_at" />
          <span v-else class="soft">Nothing in it yet</span>
        </RouterLink>
      </li>
    </ul>

    <section v-if="tries.length" class="tries" aria-labelledby="tried">
      <h2 id="tried">Tried pairs</h2>
      <ul>
        <li v-for="two in tries" :key="two.id">
          <RouterLink class="clip" :to="{ name: 'transitions', params: { mix: two.id } }">{{
            two.name
          }}</RouterLink>
          <span class="soft">{{ when.format(new Date(two.changed_at)) }}</span>
          <Button size="small" type="text" :aria-label="`Delete ${two.name}`" @click="throwAway(two.id)"
            >Delete</Button
          >
        </li>
      </ul>
    </section>

    <section class="own" aria-labelledby="own-files">
      <h2 id="own-files">Begin with your own files</h2>
      <ol>
        <li>
          Drop audio files anywhere on this page, or
          <FilePicker v-slot="{ pick }"><Button size="small" @click="pick">choose them</Button></FilePicker
          >. Each is analysed: tempo, beats, key, sections, level.
          <template v-if="tracks?.length">
            You have
            <RouterLink :to="{ name: 'tracks' }"
              >{{ tracks.length }} {{ tracks.length === 1 ? 'track' : 'tracks' }}</RouterLink
            >.
          </template>
        </li>
        <li>
          Begin a new mix and put tracks in order: every pair of neighbours gets a transition that works.
        </li>
        <li>Hear each transition, shape what you like otherwise, and render the whole as one file.</li>
      </ol>
      <ArrivalTray class="tray" />
    </section>
    <BackupBox v-if="tracks?.length" />
  </section>
</template>

<style scoped>
.start {
  max-width: 860px;
  padding: 28px 32px;
}

header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 16px;
}

.acts {
  display: flex;
  align-items: center;
  gap: 10px;
}

.mixes {
  margin: 0;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.mixes li + li {
  border-top: 1px solid var(--line);
}

.mixes a {
  display: grid;
  grid-template-columns: minmax(0, 300px) minmax(0, 1fr);
  align-items: center;
  gap: 24px;
  padding: 12px 16px;
  color: inherit;
  text-decoration: none;
}

.mixes a:hover {
  background: var(--fern-soft);
}

.words {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 1px 12px;
}

.name {
  grid-column: 1 / -1;
  font-size: 16px;
  font-weight: 600;
}

.date {
  text-align: right;
}

.note {
  padding: 20px;
  border: 1px dashed var(--line-strong);
  border-radius: var(--radius);
}

.tries {
  margin-top: 24px;
}

.tries ul {
  margin: 6px 0 0;
  padding: 0;
}

.tries li {
  display: grid;
  grid-template-columns: minmax(0, max-content) max-content max-content;
  align-items: center;
  gap: 12px;
}

.tries a,
.own a {
  color: var(--fern);
}

.own {
  margin-top: 28px;
}

.own ol {
  margin: 8px 0 0;
  padding-left: 20px;
  list-style: decimal;
}

.own li {
  padding: 3px 0;
}

.tray {
  margin: 12px 0 0;
}
</style>
