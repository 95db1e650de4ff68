<script setup lang="ts">
import { Button, Dropdown, Menu, MenuItem } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data } from '../../api/client'
import { attempt } from '../../composables/page/attempt'
import { useGathered, useLibraryActions } from '../../composables/library/useLibrary'
import { useMixActions, useMixes } from '../../composables/mix/useMixes'
import { useMix } from '../../stores/mix'
import { barBeat, barsLong, secondsLong } from '../../time/format'
import { BarLines } from '../../time/barLines'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** What becomes of two tracks that are tried: noted as a pairing, put into a mix as they are, or thrown away. */
const mix = useMix()
const route = useRoute()
const router = useRouter()
const { data: mixes } = useMixes()
const { data: gathered } = useGathered()
const mixActions = useMixActions()
const library = useLibraryActions()

const met = computed(() => {
  const [out, into] = mix.plan?.entries ?? []
  const planned = mix.plan?.transitions[0]
  return out && into && planned ? { out, into, transition: planned.transition } : undefined
})
const isPaired = computed(() =>
  gathered.value?.pairings.some(
    (p) => p.first === met.value?.out.track_id && p.second === met.value?.into.track_id,
  ),
)
/** The mix that the try came up in first, then those that were changed last. */
const places = computed(() => {
  const from = mixes.value?.find((m) => m.id === route.query.for)
  const others = mixes.value?.filter((m) => m !== from).slice(0, 10) ?? []
  const at = Number(route.query.at)
  const first = from
    ? [
        {
          id: from.id,
          at,
          text: `${from.name}, ${at ? `after its ${ordinal(at)} track` : 'as its first two'}`,
        },
      ]
    : []
  return [...first, ...others.map((m) => ({ id: m.id, at: undefined, text: `${m.name}, at its end` }))]
})

function ordinal(place: number): string {
  const ends = ['th', 'st', 'nd', 'rd']
  const tens = place % 100 > 10 && place % 100 < 14
  return `${place}${(!tens && ends[place % 10]) || 'th'}`
}

/** The place in words, as they will be read beside the pairing. */
function noteOf({ out, into, transition: t }: NonNullable<typeof met.value>): string {
  const from = `bar ${barBeat(t.out_at, BarLines.ofEntry(out))}`
  const to = `bar ${barBeat(t.in_at, BarLines.ofEntry(into))}`
  if (t.kind === 'blend') return `${barsLong(t.beats, out.bar)}, ${from} onto ${to}`
  if (t.kind === 'fade') return `fade of ${secondsLong(t.seconds)}`
  return t.kind === 'cut' ? `cut, ${from} onto ${to}` : 'one after the other'
}

const keep = () =>
  attempt(async () => {
    const { out, into } = met.value!
    if (isPaired.value) await library.unpair(out.track_id, into.track_id)
    else await library.pair(out.track_id, into.track_id, noteOf(met.value!))
  })

const putInto = (id: string, at: number | undefined) =>
  attempt(async () => {
    const params = { path: { mix_id: id, try_id: mix.mix!.id } }
    const target = await data(api.GET('/api/mixes/{mix_id}', { params: { path: { mix_id: id } } }))
    const body = { version: target.version, at: at ?? null }
    const put = await data(api.POST('/api/mixes/{mix_id}/pairs-of/{try_id}', { params, body }))
    const number = Math.max(1, Math.min(at ?? put.plan.transitions.length, put.plan.transitions.length))
    await router.push({ name: 'transitions', params: { mix: id, number } })
  })

const throwAway = () =>
  attempt(async () => {
    await mixActions.remove(mix.mix!.id)
    const from = mixes.value?.find((m) => m.id === route.query.for)
    await router.push(from ? { name: 'order', params: { mix: from.id } } : { name: 'tracks' })
  })
</script>

<template>
  <div class="try" role="toolbar" aria-label="This try">
    <span class="what">pair</span>
    <Button
      size="small"
      :type="isPaired ? 'primary' : 'default'"
      :aria-pressed="isPaired"
      :disabled="!met"
      :title="isPaired ? 'Saved as a pair that goes well together' : 'Save that these two go well together'"
      @click="keep"
      >{{ isPaired ? 'Pair saved' : 'Save pair' }}</Button
    >
    <Dropdown :trigger="['click']" :disabled="!met || !places.length">
      <Button size="small" type="primary">Add to mix <GlyphIcon name="down" :size="12" /></Button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="place in places"
            :key="`${place.id} ${place.at}`"
            @click="putInto(place.id, place.at)"
            >{{ place.text }}</MenuItem
          >
        </Menu>
      </template>
    </Dropdown>
    <Button size="small" @click="throwAway">Delete</Button>
  </div>
</template>

<style scoped>
.try {
  display: flex;
  align-items: center;
  gap: 6px;
}

.what {
  padding: 0 6px;
  border-radius: 3px;
  background: var(--fern-soft);
  color: var(--fern);
  font-size: 12px;
}
</style>
