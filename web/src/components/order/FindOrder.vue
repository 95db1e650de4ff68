<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import type { Command, Wishes } from '../../api/types'
import { attempt } from '../../composables/page/attempt'
import { isOpen as isUnderWay } from '../../composables/page/jobs'
import { useOrderActions, useOrders, type LibraryPart } from '../../composables/order/useOrders'
import { useKeys } from '../../composables/page/useKeys'
import { useMix } from '../../stores/mix'
import { pointOfSeat, rangesOf } from '../../time/profile'
import { startingWishes } from '../../time/shapes'
import GlyphIcon from '../shared/GlyphIcon.vue'
import ProposalColumn from './ProposalColumn.vue'
import WishesForm from './WishesForm.vue'

/** Wishes on the left, the orders that were found for them on the right, beside the one that there is. */
const emit = defineEmits<{ close: [] }>()

const mix = useMix()
const mixId = computed(() => mix.mix!.id)
const { data: search, isPending } = useOrders(mixId)
const actions = useOrderActions(mixId)
const wishes = ref<Wishes>(startingWishes())
const library = ref<LibraryPart | null>(null)

/** What was wished the last time is where one goes on. */
watch(search, (now, before) => now && !before && (wishes.value = now.wishes), { immediate: true })

const isOpen = computed(() => isUnderWay(search.value?.job))
const columns = computed(() => {
  const { present, proposals } = search.value ?? {}
  return present && proposals ? [present, ...proposals] : []
})
const ranges = computed(() => rangesOf(columns.value.flatMap((p) => p.seats.map(pointOfSeat))))
const kept = computed(
  () => mix.plan?.entries.filter((e, i, all) => e.with_next || all[i - 1]?.with_next).length ?? 0,
)
const fixed = computed(() => mix.plan?.entries.filter((e) => e.fixed !== null).length ?? 0)
const heeded = computed(() => {
  const words = []
  if (fixed.value) words.push(`${fixed.value} fixed`)
  if (kept.value) words.push(`${kept.value} kept together`)
  return words.length ? `${words.join(', ')}: they stay so.` : 'Nothing is fixed or kept together.'
})

const find = () => attempt(() => actions.find(wishes.value, library.value))

async function use(command: Command) {
  if (await mix.send(command)) emit('close')
}

useKeys('Find an order', [{ keys: ['Escape'], label: 'Back to the running order', run: () => emit('close') }])
</script>

<template>
  <section class="find" aria-label="Find an order">
    <aside class="wished">
      <Button class="back" size="small" @click="emit('close')"
        ><GlyphIcon name="left" :size="12" /> Running order</Button
      >
      <WishesForm v-model:wishes="wishes" v-model:library="library" :tracks="mix.plan?.entries.length ?? 0" />
      <div class="go">
        <p class="soft">{{ heeded }}</p>
        <Button v-if="!isOpen" type="primary" block @click="find">{{
          columns.length ? 'Find again' : 'Find orders'
        }}</Button>
        <template v-else>
          <Progress
            :percent="Math.round((search?.job.progress ?? 0) * 100)"
            size="small"
            :aria-label="`${Math.round((search?.job.progress ?? 0) * 100)} % of the search`"
          />
          <Button block @click="search && attempt(() => actions.cancel(search!.job.id))">Cancel</Button>
        </template>
      </div>
    </aside>
    <div class="found">
      <div v-if="!columns.length" class="empty">
        <template v-if="isOpen">
          <h2>Looking for orders</h2>
          <p>Four ways are tried: all wishes together, tempo, keys, and the shape of the energy above all.</p>
        </template>
        <template v-else-if="search?.job.state === 'failed'">
          <h2>No order was found</h2>
          <p class="warn">{{ search.job.error }}</p>
        </template>
        <template v-else-if="!isPending">
          <h2>Which order would you sign?</h2>
          <p>
            Say what counts, then have orders found. Each is shown beside the one that there is, with what is
            better and worse in it; its seams can be heard before anything is changed.
          </p>
        </template>
      </div>
      <template v-else>
        <p v-if="!search!.is_current" class="stale" role="status">
          The mix has other tracks now than when these were found. Find again before you use one.
        </p>
        <div class="columns">
          <ProposalColumn
            v-for="(proposal, i) in columns"
            :key="i"
            :proposal="proposal"
            :present="columns[0]!"
            :ranges="ranges"
            :is-present="i === 0"
            @use="use"
          />
        </div>
      </template>
    </div>
  </section>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: 266px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}

.wished {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  overflow: auto;
  padding: 10px 16px 0;
  border-right: 1px solid var(--line);
  background: var(--ground);
}

.back {
  align-self: flex-start;
}

.go {
  position: sticky;
  bottom: 0;
  margin-top: auto;
  padding: 6px 0 10px;
  background: var(--ground);
}

.go p {
  margin: 0 0 6px;
  font-size: 12.5px;
}

.found {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  background: var(--sheet);
}

.columns {
  display: flex;
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.stale {
  margin: 0;
  padding: 6px 12px;
  background: var(--warn-soft);
  color: var(--warn);
}

.empty {
  max-width: 440px;
  margin: 18vh auto;
  text-align: center;
}

@media (max-width: 860px) {
  .find {
    grid-template: max-content max-content / 1fr;
    overflow: auto;
  }

  .wished {
    overflow: visible;
  }
}
</style>
