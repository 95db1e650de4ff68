<script setup lang="ts">
import { Button, Checkbox, Input, Modal, Progress, Skeleton } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { api, data } from '../../api/client'
import type { FieldChange, Wanted } from '../../api/types'
import { useKeyNotation } from '../../composables/page/preferences'
import type { ListedTrack } from '../../library/trackTable'

/** Writing into the files of some tracks: what is wanted, what would change, and then the doing of it. */
const props = defineProps<{ tracks: ListedTrack[] }>()
const open = defineModel<boolean>('open', { required: true })

const SHOWN = 40
const FIELD_NAMES: Record<string, string> = {
  title: 'Title',
  bpm: 'BPM',
  key: 'Key',
  comment: 'Comment',
  gain: 'Gain',
  markup: 'Grid, cues, loops, tags',
}

const { notation } = useKeyNotation()
const use = reactive({ bpm: true, key: true, comment: false, title: false, gain: false, markup: true })
const title = ref('{bpm} {key} {artist} - {title}')
const comment = ref('{key} {bpm}')
const changes = ref<{ track: ListedTrack; changes: FieldChange[]; problem?: string }[]>()
const done = ref(0)
const working = ref<'write' | 'restore'>()
const told = ref('')

const wanted = computed<Wanted>(() => ({
  bpm: use.bpm,
  key: use.key ? notation.value : null,
  comment: use.comment ? comment.value : null,
  title: use.title ? title.value : null,
  gain: use.gain,
  markup: use.markup,
}))
const count = computed(() => changes.value?.filter((c) => c.changes.length).length ?? 0)
const path = (id: string) => ({ params: { path: { track_id: id } } })

let asked = 0
/** What would change, asked of the first tracks; the others are alike. */
async function look() {
  const number = ++asked
  const found: NonNullable<typeof changes.value> = []
  for (const track of props.tracks.slice(0, SHOWN)) {
    try {
      const body = wanted.value
      found.push({ track, changes: await data(api.POST('/api/tracks/{track_id}/file/preview', { ...path(track.id), body })) }) // prettier-ignore
    } catch (error) {
      found.push({ track, changes: [], problem: (error as Error).message })
    }
    if (number !== asked) return
  }
  changes.value = found
}
watch([open, wanted], ([shown]) => shown && void look(), { immediate: true })
watch(open, () => (told.value = ''))

async function run(what: 'write' | 'restore') {
  working.value = what
  done.value = 0
  let changed = 0
  const problems: string[] = []
  for (const track of props.tracks) {
    try {
      const answer =
        what === 'write'
          ? await data(
              api.POST('/api/tracks/{track_id}/file/write', { ...path(track.id), body: wanted.value }),
            )
          : await data(api.POST('/api/tracks/{track_id}/file/restore', path(track.id)))
      changed += Number(answer.length > 0)
    } catch (error) {
      problems.push(`${track.title}: ${(error as Error).message}`)
    }
    done.value++
  }
  working.value = undefined
  const files = `${changed} ${changed === 1 ? 'file' : 'files'}`
  told.value = [
    what === 'write'
      ? `Written into ${files}; the sound of each is the same to the sample.`
      : `Brought back in ${files}.`,
    ...problems,
  ].join('\n')
  await look()
}
</script>

<template>
  <Modal
    v-model:open="open"
    :title="`Write into ${tracks.length === 1 ? 'the file' : `the files of ${tracks.length} tracks`}`"
    width="760px"
    :mask-closable="!working"
  >
    <div class="wanted">
      <Checkbox v-model:checked="use.bpm">BPM</Checkbox>
      <Checkbox v-model:checked="use.key">Key, as {{ notation === 'wheel' ? '5A' : 'Cm' }}</Checkbox>
      <Checkbox v-model:checked="use.gain">Gain to −14 LUFS</Checkbox>
      <Checkbox v-model:checked="use.markup">Grid, cues, loops and tags, so that they travel along</Checkbox>
      <span class="pattern">
        <Checkbox v-model:checked="use.title">Title</Checkbox>
        <Input v-model:value="title" size="small" :disabled="!use.title" aria-label="Pattern of the title" />
      </span>
      <span class="pattern">
        <Checkbox v-model:checked="use.comment">Comment</Checkbox>
        <Input
          v-model:value="comment"
          size="small"
          :disabled="!use.comment"
          aria-label="Pattern of the comment"
        />
      </span>
    </div>
    <Skeleton v-if="!changes" active :paragraph="{ rows: 3 }" :title="false" />
    <div v-else class="box">
      <table aria-label="What will change">
        <thead>
          <tr>
            <th>Track</th>
            <th>Field</th>
            <th>Before</th>
            <th>After</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="row in changes" :key="row.track.id">
            <tr v-for="(c, i) in row.changes" :key="c.field">
              <td class="clip">{{ i ? '' : row.track.title }}</td>
              <td>{{ FIELD_NAMES[c.field] }}</td>
              <td class="clip soft" :title="c.before ?? ''">{{ c.before ?? '–' }}</td>
              <td class="clip" :title="c.after ?? ''">{{ c.after ?? '–' }}</td>
            </tr>
            <tr v-if="row.problem">
              <td class="clip">{{ row.track.title }}</td>
              <td colspan="3" class="bad">{{ row.problem }}</td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="!count && !changes.some((c) => c.problem)" class="soft">All of this stands there already.</p>
      <p v-if="tracks.length > SHOWN" class="soft">… and {{ tracks.length - SHOWN }} more tracks.</p>
    </div>
    <Progress v-if="working" :percent="Math.round((done / tracks.length) * 100)" />
    <p v-if="told" class="told" role="status">{{ told }}</p>
    <template #footer>
      <Button :disabled="!!working" @click="run('restore')">Bring the old fields back</Button>
      <Button :disabled="!!working" @click="open = false">Close</Button>
      <Button type="primary" :loading="working === 'write'" :disabled="!count" @click="run('write')"
        >Write</Button
      >
    </template>
  </Modal>
</template>

<style scoped>
.wanted {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 20px;
  margin-bottom: 12px;
}

.pattern {
  display: flex;
  gap: 8px;
}

.pattern > :first-child {
  flex: none;
}

.box {
  max-height: 44vh;
  overflow: auto;
  border: 1px solid var(--line);
  border-radius: 4px;
}

table {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
}

th {
  padding: 4px 8px;
  color: var(--ink-soft);
  font-size: 12px;
  font-weight: 400;
  text-align: left;
}

td {
  padding: 3px 8px;
  border-top: 1px solid var(--line);
}

.box p {
  margin: 0;
  padding: 8px;
}

.told {
  margin: 10px 0 0;
  white-space: pre-line;
}
</style>
