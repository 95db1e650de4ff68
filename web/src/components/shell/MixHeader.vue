<script setup lang="ts">
import { Button, Dropdown, Input, Menu, MenuDivider, MenuItem, Modal } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { attempt } from '../../composables/page/attempt'
import { useRoute, useRouter } from 'vue-router'
import { undoKeys, useKeys } from '../../composables/page/useKeys'
import { useMixActions, useMixes } from '../../composables/mix/useMixes'
import { useMix } from '../../stores/mix'
import { clockTime } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import HistoryBox from './HistoryBox.vue'
import MixSettings from './MixSettings.vue'
import TryBar from './TryBar.vue'
import LevelsBox from './LevelsBox.vue'
import UndoButtons from '../shared/UndoButtons.vue'

const mix = useMix()
const router = useRouter()
const route = useRoute()
const { data: mixes } = useMixes()
const actions = useMixActions()

const showing = ref<'history' | 'settings'>()
const renaming = ref(false)
const name = ref('')
const field = ref<{ focus: () => void }>()

const here = computed(() => (route.name === 'start' ? 'order' : String(route.name)))

function go(id: string) {
  void router.push({ name: here.value, params: { mix: id } })
}

async function startRename() {
  name.value = mix.mix?.name ?? ''
  renaming.value = true
  await nextTick()
  field.value?.focus()
}

async function rename() {
  if (!renaming.value) return
  renaming.value = false
  const wanted = name.value.trim()
  if (wanted && wanted !== mix.mix?.name) await mix.send({ kind: 'rename_mix', name: wanted })
}

const create = () => attempt(async () => go((await actions.create('New mix')).id))
const duplicate = () => attempt(async () => go((await actions.duplicate(mix.mix!.id)).id))

function remove() {
  const { id, name: title } = mix.mix!
  Modal.confirm({
    title: `Delete ‘${title}’?`,
    content:
      'The mix and its whole history go. Its rendered files are deleted with it. The tracks stay in the library.',
    okText: 'Delete the mix',
    okButtonProps: { danger: true },
    onOk: () =>
      attempt(async () => {
        await actions.remove(id)
        await router.push({ name: 'start' })
      }),
  })
}

useKeys('This mix', undoKeys(mix.undo, mix.redo))
</script>

<template>
  <header class="header">
    <div class="title">
      <form v-if="renaming" @submit.prevent="rename">
        <Input
          ref="field"
          v-model:value="name"
          aria-label="Name of the mix"
          :maxlength="200"
          @blur="rename"
          @keydown.esc="renaming = false"
        />
      </form>
      <Dropdown v-else :trigger="['click']">
        <Button type="text" class="picker" aria-label="Mix menu">
          <h1 class="clip">{{ mix.mix?.name ?? ' ' }}</h1>
          <GlyphIcon name="down" />
        </Button>
        <template #overlay>
          <Menu>
            <MenuItem
              v-for="other in mixes?.slice(0, 12)"
              :key="other.id"
              :disabled="other.id === mix.mix?.id"
              @click="go(other.id)"
            >
              {{ other.name }}
              <span v-if="other.entries !== null" class="faint">· {{ other.entries }} tracks</span>
            </MenuItem>
            <MenuDivider />
            <MenuItem key="history" @click="showing = 'history'">History…</MenuItem>
            <MenuItem key="settings" @click="showing = 'settings'">Tempo and bands…</MenuItem>
            <MenuItem key="rename" @click="startRename">Rename</MenuItem>
            <MenuItem key="duplicate" @click="duplicate">Duplicate</MenuItem>
            <MenuItem key="new" @click="create">New mix</MenuItem>
            <MenuItem key="delete" danger @click="remove">Delete…</MenuItem>
          </Menu>
        </template>
      </Dropdown>
      <span v-if="mix.plan?.entries.length" class="soft facts">
        {{ mix.plan.entries.length }} {{ mix.plan.entries.length === 1 ? 'track' : 'tracks' }} ·
        {{ clockTime(mix.plan.duration_s) }}
      </span>
    </div>
    <HistoryBox :open="showing === 'history'" @update:open="(on) => (showing = on ? 'history' : undefined)" />
    <MixSettings
      :open="showing === 'settings'"
      @update:open="(on) => (showing = on ? 'settings' : undefined)"
    />
    <div class="actions">
      <slot />
      <TryBar v-if="mix.mix?.is_try" />
      <LevelsBox v-if="mix.plan?.entries.length" />
      <UndoButtons :undo="mix.mix?.undo" :redo="mix.mix?.redo" @undo="mix.undo()" @redo="mix.redo()" />
    </div>
  </header>
</template>

<style scoped>
.header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  height: 52px;
  padding: 0 16px 0 10px;
  border-bottom: 1px solid var(--line);
}

.title {
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
}

.picker {
  display: flex;
  align-items: center;
  gap: 6px;
  max-width: 520px;
  height: 36px;
  padding: 0 8px;
}

.facts {
  white-space: nowrap;
}

.actions {
  display: flex;
  gap: 6px;
}
</style>
