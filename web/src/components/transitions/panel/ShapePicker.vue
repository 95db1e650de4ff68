<script setup lang="ts">
import { Button, Dropdown, Menu, MenuDivider, MenuItem, Modal, Segmented } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { ReadyShape, Kind, Mix, SavedShape } from '../../../api/types'
import { useShapes } from '../../../composables/transition/useShapes'
import { useTransition } from '../../../composables/transition/useTransition'
import { useMix } from '../../../stores/mix'
import TextField from '../../shared/TextField.vue'
import GlyphIcon from '../../shared/GlyphIcon.vue'

const KINDS: { value: Kind; label: string; title: string }[] = [
  { value: 'blend', label: 'Blend', title: 'Both play together, their beats locked' },
  { value: 'cut', label: 'Cut', title: 'A switch on a beat' },
  {
    value: 'fade',
    label: 'Fade',
    title: 'Lasts seconds, each at its original tempo: for music without a beat',
  },
  { value: 'apart', label: 'Apart', title: 'One ends, a pause, the other starts' },
]

/** What kind of transition it is, and which shape it starts from: ready-made, or saved by the user. */
const { planned, several, t, pair } = useTransition()
const mix = useMix()
const { shapes, save, rename, remove } = useShapes()

const pairs = computed(() =>
  several.value.flatMap((i) => {
    const one = mix.plan?.transitions[i]?.transition
    return one ? [{ out_id: one.out_id, in_id: one.in_id }] : []
  }),
)
const start = computed(() =>
  several.value.length > 1 ? `Start ${several.value.length} from a shape` : 'Start from a shape',
)
const here = computed(() => (several.value.length > 1 ? `for these ${several.value.length}` : 'here'))
const managing = ref(false)
const naming = ref<string>()
const untouched = computed(() => untouchedText(mix.mix?.untouched))

type Choice = ReadyShape | SavedShape

function apply(shape: Choice) {
  if (several.value.length > 1) return void mix.send({ kind: 'shape_transitions', shape, pairs: pairs.value })
  void mix.send({ kind: 'apply_shape', ...pair.value, shape })
}
function applyToAll(shape: Choice) {
  void mix.send({ kind: 'shape_transitions', shape, pairs: null })
}
function useForUntouched(choice: Mix['untouched']) {
  void mix.send({ kind: 'set_untouched', untouched: choice })
}

function untouchedText(choice: Mix['untouched'] | undefined): string {
  if (!choice) return ''
  if (typeof choice !== 'string') return 'seconds' in choice ? `fade of ${choice.seconds} s` : choice.name
  return shapes.value?.ready.find((r) => r.shape === choice)?.label ?? choice
}

async function saveAs() {
  const name = naming.value?.trim()
  naming.value = undefined
  if (name && mix.mix) await save(name, mix.mix.id, planned.value.index)
}
</script>

<template>
  <section class="picker" aria-label="Kind and shape">
    <Segmented
      block
      size="small"
      aria-label="Kind"
      :value="t.kind"
      :options="KINDS"
      @change="(to) => mix.send({ kind: 'set_kind', ...pair, to: to as Kind })"
    />
    <div class="row">
      <Dropdown :trigger="['click']" overlay-class-name="shape-menu">
        <Button size="small" class="start">{{ start }} <GlyphIcon name="down" :size="12" /></Button>
        <template #overlay>
          <Menu>
            <MenuItem v-for="r in shapes?.ready ?? []" :key="r.shape" @click="apply(r.shape)">
              <strong>{{ r.label }}</strong>
              <span class="about">{{ r.about }}</span>
            </MenuItem>
            <MenuDivider v-if="shapes?.saved.length" />
            <MenuItem v-for="s in shapes?.saved ?? []" :key="s.id" @click="apply(s.shape)">
              <strong>{{ s.shape.name }}</strong>
              <span class="about">your own</span>
            </MenuItem>
          </Menu>
        </template>
      </Dropdown>
      <Button
        size="small"
        title="Save this shape, or use one for several transitions"
        @click="managing = true"
        >Shapes…</Button
      >
    </div>

    <Modal v-model:open="managing" title="Shapes" :footer="null" :width="560">
      <p class="soft">
        A shape is a ready set of curves under a name. It fits any length: what happens on the phrase line
        stays on it.
      </p>
      <form class="save" @submit.prevent="saveAs">
        <label for="shape-name">Save this shape as</label>
        <input id="shape-name" v-model="naming" class="name" maxlength="60" placeholder="a name" />
        <Button size="small" html-type="submit" type="primary" :disabled="!naming?.trim()">Save</Button>
      </form>
      <p class="now">
        Transitions that nobody has shaped: <strong>{{ untouched }}</strong>
        <Button type="link" size="small" @click="useForUntouched({ seconds: 12 })"
          >fade 12 s everywhere</Button
        >
      </p>
      <table class="all">
        <tbody>
          <tr v-for="s in shapes?.saved ?? []" :key="s.id">
            <td>
              <TextField
                :value="s.shape.name"
                :label="`Name of ${s.shape.name}`"
                @send="(text) => text && rename(s.id, text)"
              />
            </td>
            <td class="acts">
              <Button size="small" @click="apply(s.shape)">{{ here }}</Button>
              <Button size="small" @click="applyToAll(s.shape)">for all</Button>
              <Button size="small" @click="useForUntouched(s.shape)">for untouched</Button>
              <Button size="small" danger :aria-label="`Delete ${s.shape.name}`" @click="remove(s.id)"
                >delete</Button
              >
            </td>
          </tr>
          <tr v-for="r in shapes?.ready ?? []" :key="r.shape">
            <td>
              {{ r.label }}
              <div class="about">{{ r.about }}</div>
            </td>
            <td class="acts">
              <Button size="small" @click="apply(r.shape)">{{ here }}</Button>
              <Button size="small" @click="applyToAll(r.shape)">for all</Button>
              <Button size="small" @click="useForUntouched(r.shape)">for untouched</Button>
            </td>
          </tr>
        </tbody>
      </table>
    </Modal>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}

.start {
  display: flex;
  flex: 1;
  align-items: center;
  justify-content: space-between;
  gap: 6px;
}

.about {
  display: block;
  color: var(--ink-soft);
  font-size: 12px;
}

.save {
  display: flex;
  align-items: center;
  gap: 8px;
}

.name {
  flex: 1;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.now {
  margin: 12px 0 6px;
}

.all {
  width: 100%;
  border-collapse: collapse;
}

.all td {
  padding: 5px 0;
  border-top: 1px solid var(--line);
}

.acts {
  display: flex;
  justify-content: flex-end;
  gap: 4px;
}
</style>
