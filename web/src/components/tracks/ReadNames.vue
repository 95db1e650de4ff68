<script setup lang="ts">
import { Button, Dropdown, Menu, MenuItem, message } from 'ant-design-vue'
import { ref } from 'vue'
import type { Reading } from '../../api/types'
import { attempt } from '../../composables/page/attempt'
import { useLibraryActions } from '../../composables/library/useLibrary'

/** Reads names that came as signs of another script as what they could be: one sees each before one chooses. */
const props = defineProps<{ ids: string[] }>()
const actions = useLibraryActions()
const readings = ref<Reading[]>()

async function look(open: boolean) {
  if (!open) return
  readings.value = undefined
  await attempt(async () => (readings.value = await actions.readings(props.ids)))
}

const read = (encoding: Reading['encoding']) =>
  attempt(async () => {
    const { tracks } = await actions.readNames(props.ids, encoding)
    void message.success(`${tracks} ${tracks === 1 ? 'track has' : 'tracks have'} other names now.`)
  })
</script>

<template>
  <Dropdown :trigger="['click']" @open-change="look">
    <Button size="small" title="Names that came as signs of another script">Read names as</Button>
    <template #overlay>
      <Menu>
        <MenuItem v-for="r in readings" :key="r.encoding" @click="read(r.encoding)">
          <span class="soft">{{ r.script }}:</span> {{ r.title
          }}<template v-if="r.artist"> – {{ r.artist }}</template>
        </MenuItem>
        <MenuItem v-if="!readings?.length" key="none" disabled>
          {{ readings ? 'Nothing else that gives words' : 'Reading…' }}
        </MenuItem>
      </Menu>
    </template>
  </Dropdown>
</template>
