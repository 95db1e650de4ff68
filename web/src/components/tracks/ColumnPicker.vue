<script setup lang="ts">
import { Button, Checkbox, Popover, Segmented } from 'ant-design-vue'
import { NOTATIONS, RANGES, useKeyNotation, useTempoRange } from '../../composables/page/preferences'
import type { TrackTableState } from '../../composables/library/useTrackTable'
import GlyphIcon from '../shared/GlyphIcon.vue'
import PickField from '../shared/PickField.vue'

/** How the table of tracks is shown: its columns, how keys are written; and where the beat of new files is looked for. */
const { table } = defineProps<{ table: TrackTableState }>()
const { chosen: tempoRange } = useTempoRange()
const { notation } = useKeyNotation()
</script>

<template>
  <Popover trigger="click" placement="bottomRight" title="How the list is shown">
    <template #content>
      <div class="box">
        <div class="line">
          <span class="soft">Keys as</span>
          <Segmented v-model:value="notation" :options="NOTATIONS" aria-label="How keys are written" />
        </div>
        <div class="line">
          <span class="soft">Beats of added files at</span>
          <PickField v-model:value="tempoRange" class="range" :options="RANGES" label="Range of tempi" />
        </div>
        <ul aria-label="Columns">
          <li v-for="c in table.columns.value" :key="c.key">
            <Checkbox
              checked
              :disabled="c.key === 'title'"
              @update:checked="(on: boolean) => table.toggle(c.key, on)"
              >{{ c.label }}</Checkbox
            >
            <span class="moves">
              <button type="button" :aria-label="`${c.label} to the left`" @click="table.move(c.key, -1)">
                <GlyphIcon name="left" :size="12" />
              </button>
              <button type="button" :aria-label="`${c.label} to the right`" @click="table.move(c.key, 1)">
                <GlyphIcon name="right" :size="12" />
              </button>
            </span>
          </li>
          <li v-for="c in table.others.value" :key="c.key">
            <Checkbox :checked="false" @update:checked="(on: boolean) => table.toggle(c.key, on)">{{
              c.label
            }}</Checkbox>
          </li>
        </ul>
      </div>
    </template>
    <Button aria-haspopup="dialog">Columns</Button>
  </Popover>
</template>

<style scoped>
.box {
  width: 280px;
}

.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 8px;
}

.range {
  width: 132px;
  height: 30px;
}

ul {
  max-height: 46vh;
  margin: 0;
  overflow: auto;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  height: 27px;
}

.moves button {
  padding: 2px 5px;
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
}
</style>
