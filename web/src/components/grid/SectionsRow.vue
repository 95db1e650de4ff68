<script setup lang="ts">
import { Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import type { Section, SectionKind } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'
import { useResting } from '../../composables/page/useResting'
import type { BeatGrid } from '../../time/grid'
import { askTexts } from '../shared/askTexts'
import { SECTION_KINDS, sectionLabel } from '../../time/sections'
import { extent, joined, splitSection, withBorder } from '../../time/spans'

const { sections, beats, duration, cursor, change } = defineProps<{
  sections: Section[]
  /** Keeps changed sections; false where they were refused. */
  change: (sections: Section[], why: string) => Promise<boolean>
  beats: BeatGrid
  duration: number
  cursor: number
}>()
const emit = defineEmits<{ analysed: [] }>()

const row = useTemplateRef<HTMLElement>('row')
const moving = ref<Section[]>()
const pressed = useResting<Section[]>()
const shown = computed(() => moving.value ?? pressed.draft.value ?? sections)

const blocks = computed(() =>
  shown.value.map((s, index) => ({
    s,
    index,
    ...extent(s, beats, duration),
    label: s.name || sectionLabel(s.kind),
  })),
)

function dragBorder(event: PointerEvent, index: number) {
  const origin = beats.timeAt(sections[index]!.start)
  const perPixel = duration / row.value!.clientWidth
  startDrag(event, {
    move(dx) {
      moving.value = withBorder(sections, index, beats.beatAt(origin + dx * perPixel), beats.bars)
    },
    drop() {
      if (moving.value) void change(moving.value, 'move a section border')
      moving.value = undefined
    },
  })
}

function nudgeBorder(index: number, bars: number) {
  const beat = beats.bars.beatOf(beats.bars.at(shown.value[index]!.start) + bars)
  const moved = withBorder(shown.value, index, beat, beats.bars)
  pressed.put(moved, () => change(moved, 'move a section border'))
}

function setKind(index: number, kind: SectionKind) {
  const changed = sections.map((s, i) => (i === index ? { ...s, kind } : s))
  void change(changed, `call a section ‘${sectionLabel(kind)}’`)
}

function split(index: number) {
  const changed = splitSection(sections, index, beats.beatAt(cursor), beats.bars)
  if (changed !== sections) void change(changed, 'split a section')
}

function rename(index: number) {
  askTexts({
    title: 'Name of the section',
    ok: 'Rename',
    fields: [
      {
        label: 'Name',
        value: sections[index]!.name ?? '',
        maxLength: 60,
        placeholder: 'As it is called by what sounds',
      },
    ],
    use: ([name]) =>
      void change(
        sections.map((s, i) => (i === index ? { ...s, name: name! } : s)),
        'rename a section',
      ),
  })
}
</script>

<template>
  <div ref="row" class="sections" aria-label="Sections" role="group">
    <Dropdown v-for="b in blocks" :key="b.index" :trigger="['click']">
      <button
        type="button"
        class="block clip"
        :data-kind="b.s.kind"
        :style="{ left: `${b.left * 100}%`, width: `${b.width * 100}%` }"
        :title="`${b.label}: bar ${beats.bars.barOf(b.s.start) + 1} on, ${Math.round(beats.bars.at(b.s.end) - beats.bars.at(b.s.start))} bars`"
      >
        {{ b.label }}
      </button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="k in SECTION_KINDS"
            :key="k.kind"
            :disabled="k.kind === b.s.kind"
            @click="setKind(b.index, k.kind)"
            >{{ k.label }}</MenuItem
          >
          <MenuDivider />
          <MenuItem key="rename" @click="rename(b.index)">Rename…</MenuItem>
          <MenuItem key="split" @click="split(b.index)">Split at the cursor</MenuItem>
          <MenuItem
            v-if="b.index < sections.length - 1"
            key="join"
            @click="change(joined(sections, b.index), 'join two sections')"
            >Join with the next</MenuItem
          >
          <MenuDivider />
          <MenuItem key="analysed" @click="emit('analysed')">All sections as analysed</MenuItem>
        </Menu>
      </template>
    </Dropdown>
    <span
      v-for="b in blocks.slice(1)"
      :key="`border${b.index}`"
      class="border"
      role="slider"
      tabindex="0"
      :aria-label="`Start of ${b.label}`"
      :aria-valuenow="b.s.start"
      :style="{ left: `${b.left * 100}%` }"
      @pointerdown="(e) => dragBorder(e, b.index)"
      @keydown.left.stop.prevent="nudgeBorder(b.index, -1)"
      @keydown.right.stop.prevent="nudgeBorder(b.index, 1)"
    />
  </div>
</template>

<style scoped>
.sections {
  position: relative;
  height: 22px;
}

.block {
  position: absolute;
  top: 1px;
  bottom: 1px;
  padding: 0 6px;
  border: 0;
  border-right: 1px solid var(--ground);
  background: var(--sunken);
  color: var(--ink);
  font: inherit;
  font-size: 12px;
  line-height: 20px;
  text-align: left;
  cursor: pointer;
}

.block[data-kind='beat'] {
  background: repeating-linear-gradient(90deg, var(--fern-soft) 0 5px, var(--sheet) 5px 7px);
  color: var(--fern);
  font-weight: 600;
}

.block[data-kind='bass'] {
  background: var(--fern-soft);
}

.block[data-kind='full'] {
  background: color-mix(in srgb, var(--ink) 22%, var(--ground));
}

.block[data-kind='rise'] {
  background: linear-gradient(90deg, var(--sunken), color-mix(in srgb, var(--ink) 22%, var(--ground)));
}

.block[data-kind='beatless'] {
  background: var(--sheet);
  color: var(--ink-soft);
}

.border {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 8px;
  margin-left: -4px;
  cursor: ew-resize;
  touch-action: none;
}

.border:hover,
.border:focus-visible {
  background: color-mix(in srgb, var(--fern) 45%, transparent);
}
</style>
