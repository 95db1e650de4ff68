<script setup lang="ts">
import { Button, Segmented, Switch } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import type { Edit, Entry, Fold, TrackGrid } from '../../api/types'
import type { Editing } from '../../composables/edits/useEditing'
import { useMix } from '../../stores/mix'
import { barBeat, barsLong } from '../../time/format'
import NumberField from '../shared/NumberField.vue'
import StemsState from '../shared/StemsState.vue'
import FoldsPane from './FoldsPane.vue'
import OffersPane from './OffersPane.vue'
import { keyFor } from '../../composables/page/useKeys'

const HEARD_AS = [
  { value: 'edited', label: 'Edited' },
  { value: 'original', label: 'Original' },
]

/** What can be done to the chosen span, which edits there are, and where a join is hardly heard. */
const props = defineProps<{ entry: Entry; track: TrackGrid | undefined; editing: Editing }>()
const emit = defineEmits<{ point: [fold: Fold | undefined] }>()
const mix = useMix()
const times = ref(2)
const apart = useTemplateRef('apart')
const offered = computed(() => apart.value?.stems?.offered ?? [])

const span = computed(() => props.editing.span.value)
const bar = computed(() => props.editing.perBar.value)
const bars = computed(() => props.editing.bars.value)
const others = computed(() =>
  (mix.plan?.entries ?? []).filter((e) => e.track_id === props.entry.track_id && e.id !== props.entry.id),
)
const rows = computed(() =>
  [...props.editing.edits.value]
    .sort((a, b) => a.start - b.start)
    .map((edit) => ({ edit, ...wordsOf(edit) })),
)

function wordsOf(edit: Edit) {
  const where = `bar ${barBeat(edit.start, bars.value)}, ${barsLong(edit.end - edit.start, bar.value)}`
  if (edit.kind === 'skip') return { what: 'Cut', where }
  if (edit.kind === 'swap') return { what: 'Swapped with the next span', where }
  if (edit.kind === 'drop_out')
    return { what: edit.stems.length ? `Without ${edit.stems.join(', ')}` : 'Silent', where }
  return {
    what: edit.times === null ? 'Repeated to the end of the overlap' : `Played ${edit.times} times`,
    where,
  }
}

function setEdge(edge: 'start' | 'end', at: number) {
  const now = span.value
  if (!now) return Promise.resolve(false)
  const next = { ...now, [edge]: bars.value.beatOf(at - 1) }
  if (next.end <= next.start) return Promise.resolve(false)
  props.editing.choose(next)
  return Promise.resolve(true)
}
const round = (value: number) => Math.round(value * 100) / 100
</script>

<template>
  <aside class="side-panel" aria-label="Edits">
    <section class="recorded">
      <Segmented
        :value="entry.edited?.as_recorded ? 'original' : 'edited'"
        :options="HEARD_AS"
        :disabled="!editing.edits.value.length"
        size="small"
        aria-label="Original or edited"
        @change="(to) => editing.asRecorded(to === 'original')"
      />
    </section>

    <section v-if="span" class="numbers full-numbers" aria-label="Chosen span">
      <h3>Chosen</h3>
      <label for="span-from">From bar</label>
      <NumberField
        id="span-from"
        :value="round(bars.at(span.start) + 1)"
        :step="1"
        :min="-99"
        :send="(n) => setEdge('start', n)"
      />
      <span class="faint" />
      <label for="span-to">Up to bar</label>
      <NumberField
        id="span-to"
        :value="round(bars.at(span.end) + 1)"
        :step="1"
        :min="-99"
        :send="(n) => setEdge('end', n)"
      />
      <span class="faint">{{ barsLong(span.end - span.start, bar) }}</span>
      <div class="whole acts">
        <Button size="small" type="primary" :title="keyFor('x')" @click="editing.skip()">Cut</Button>
        <Button size="small" :title="keyFor('r')" @click="editing.repeat(times)">Repeat</Button>
        <select v-model.number="times" class="times" aria-label="How many times">
          <option v-for="n in [2, 3, 4, 6, 8]" :key="n" :value="n">× {{ n }}</option>
        </select>
        <Button
          size="small"
          :title="`Repeat it until the end of the overlap (${keyFor('u')})`"
          @click="editing.repeat(null)"
          >Repeat to the end</Button
        >
        <Button
          size="small"
          :title="`Swaps places with the span after it, of the same length (${keyFor('w')})`"
          @click="editing.swapWithNext()"
          >Swap with next</Button
        >
        <Button
          size="small"
          :title="`Silent for this span; what follows stays in place (${keyFor('d')})`"
          @click="editing.drop([])"
          >Silence</Button
        >
        <Button
          v-for="stem in offered"
          :key="stem"
          size="small"
          :title="
            stem === 'voice'
              ? `Turned down as far as it can be separated (${keyFor('v')})`
              : 'Not heard in this span'
          "
          @click="editing.drop([stem])"
          >Drop {{ stem }}</Button
        >
      </div>
    </section>
    <p v-else class="soft none">
      Click a phrase of the original track, or drag over any span. Then cut, repeat or silence it. The track
      itself does not change.
    </p>

    <section aria-label="Edits of this entry">
      <h3>Edits</h3>
      <ol v-if="rows.length" class="edits">
        <li v-for="row in rows" :key="row.edit.id" :class="{ off: !row.edit.on }">
          <Switch
            size="small"
            :checked="row.edit.on"
            :aria-label="`${row.what}, ${row.where}: on`"
            @change="editing.turn(row.edit)"
          />
          <span class="words"
            >{{ row.what }}<br /><span class="faint">{{ row.where }}</span></span
          >
          <Button
            size="small"
            type="text"
            :aria-label="`Remove: ${row.what}, ${row.where}`"
            @click="editing.remove([row.edit.id])"
            >×</Button
          >
        </li>
      </ol>
      <p v-else class="soft none">No edits: the original plays.</p>
      <div class="acts">
        <Button v-if="rows.length > 1" size="small" @click="editing.remove(null)">Remove all edits</Button>
        <Button
          v-if="rows.length && others.length"
          size="small"
          title="The track is in this mix more than once"
          @click="mix.send({ kind: 'copy_edits', entry_id: entry.id, to_ids: others.map((e) => e.id) })"
          >Copy to its other use{{ others.length === 1 ? '' : 's' }}</Button
        >
      </div>
    </section>

    <OffersPane v-if="track" :entry="entry" :track="track" :editing="editing" />

    <section aria-label="Stems">
      <h3>Stems</h3>
      <StemsState ref="apart" :entry="entry" />
    </section>

    <FoldsPane :entry="entry" :lines="bars" @point="(f) => emit('point', f)" />
  </aside>
</template>

<style scoped>
.recorded {
  display: flex;
  justify-content: space-between;
}

.numbers h3,
.whole {
  grid-column: 1 / -1;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin-top: 4px;
}

.times {
  height: 24px;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.edits li {
  display: grid;
  grid-template-columns: 34px 1fr 24px;
  align-items: center;
  gap: 6px;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}

.off .words {
  color: var(--ink-faint);
}

.words {
  font-size: 13px;
  line-height: 1.3;
}

.none {
  margin: 0;
}
</style>
