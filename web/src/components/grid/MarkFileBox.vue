<script setup lang="ts">
import { Button, Dropdown, Menu, MenuDivider, MenuItem, Modal } from 'ant-design-vue'
import { computed, ref, shallowRef, useTemplateRef } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { FacetRead, MarkFacet } from '../../api/types'
import { attempt } from '../../composables/page/attempt'
import { useMarkup } from '../../stores/markup'
import FacetCompare from '../shared/FacetCompare.vue'

/** What is known of a track as a file, and what a file says of it, shown beside what there is before it is taken. */
const ACCEPTED = '.jams,.json,.txt,.tsv,.csv,.beats,.mid,.midi,.cue'

const markup = useMarkup()
const field = useTemplateRef<HTMLInputElement>('field')
const file = shallowRef<File>()
const parts = shallowRef<FacetRead[]>([])
const chosen = ref<MarkFacet[]>([])
const href = (form: string) => `/api/tracks/${markup.track?.id}/markup/file?form=${form}`
const differs = computed(() => parts.value.some((p) => p.differs))

async function look() {
  const picked = field.value?.files?.[0]
  if (field.value) field.value.value = ''
  if (!picked || !markup.track) return
  const path = { params: { path: { track_id: markup.track.id } } }
  await attempt(async () => {
    parts.value = await data(
      api.POST('/api/tracks/{track_id}/markup/file/look', { ...path, ...filesIn([['file', picked]]) }),
    )
    chosen.value = parts.value.filter((p) => p.differs).map((p) => p.facet)
    file.value = picked
  })
}

async function take() {
  const picked = file.value
  file.value = undefined
  if (picked) await attempt(() => markup.takeFile(picked, chosen.value))
}
</script>

<template>
  <Dropdown :trigger="['click']">
    <Button title="Keep what is known of this track as a file, or read one">As a file…</Button>
    <template #overlay>
      <Menu>
        <MenuItem key="jams"><a :href="href('jams')" download>Save as JAMS</a></MenuItem>
        <MenuItem key="json"><a :href="href('json')" download>Save as JSON</a></MenuItem>
        <MenuDivider />
        <MenuItem key="read" @click="field?.click()">Read JAMS, JSON, labels, MIDI or a CUE sheet…</MenuItem>
      </Menu>
    </template>
  </Dropdown>
  <input
    ref="field"
    class="visually-hidden"
    type="file"
    :accept="ACCEPTED"
    aria-label="A file that says something of this track"
    tabindex="-1"
    @change="look"
  />
  <Modal
    :open="!!file"
    :title="`What ‘${file?.name}’ says`"
    width="720px"
    ok-text="Take selected"
    :ok-button-props="{ disabled: !chosen.length }"
    @ok="take"
    @cancel="file = undefined"
  >
    <p class="soft">
      {{
        differs
          ? 'Nothing is changed yet. Cues and loops are added to those there are; the rest takes the place of what is here.'
          : 'It says what is here already.'
      }}
    </p>
    <FacetCompare v-model:chosen="chosen" :parts="parts" there="In the file" />
  </Modal>
</template>
