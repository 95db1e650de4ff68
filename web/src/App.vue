<script setup lang="ts">
import { useEventListener, usePreferredDark, useStorage } from '@vueuse/core'
import { ConfigProvider } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import AppRail from './components/shell/AppRail.vue'
import BundleDialog from './components/shell/BundleDialog.vue'
import DropZone from './components/shell/DropZone.vue'
import KeptPlaces from './components/shell/KeptPlaces.vue'
import KeysHelp from './components/shell/KeysHelp.vue'
import ListeningBar from './components/shell/ListeningBar.vue'
import MixHeader from './components/shell/MixHeader.vue'
import { hasPads } from './composables/page/keyChanges'
import { askForMidi } from './composables/page/midi'
import { listenForKeys, useKeys } from './composables/page/useKeys'
import { useNews } from './composables/page/useNews'
import { useRenewal } from './composables/mix/useRenewal'
import { useTrackPictures } from './pictures/trackPictures'
import { useMix } from './stores/mix'
import { settleAll } from './stores/resting'
import { antTheme } from './theme/antd'

const dark = usePreferredDark()
const theme = computed(() => antTheme(dark.value))
const route = useRoute()
const mix = useMix()
const line = useNews()
useRenewal()
const showsKeys = ref(false)
const main = useTemplateRef<HTMLElement>('main')

useTrackPictures()
listenForKeys()
if (hasPads()) void askForMidi()
useEventListener(window, 'pagehide', () => void settleAll())
useKeys('Everywhere', [{ keys: ['?'], label: 'All keys of this view', run: () => (showsKeys.value = true) }])
const lastMix = useStorage('fernbrook.lastMix', '')

watch(
  () => route.params.mix,
  (id) => {
    if (typeof id !== 'string') return
    void mix.open(id)
    lastMix.value = id
  },
  { immediate: true },
)
const mixId = computed(() => (typeof route.params.mix === 'string' ? route.params.mix : lastMix.value))
</script>

<template>
  <ConfigProvider :theme="theme">
    <DropZone />
    <BundleDialog />
    <KeysHelp v-model:open="showsKeys" />
    <button type="button" class="skip" @click="main?.focus()">To the work</button>
    <div class="frame">
      <AppRail :mix-id="mixId" @keys="showsKeys = true" />
      <div class="work">
        <template v-if="route.params.mix">
          <MixHeader />
          <KeptPlaces />
        </template>
        <main ref="main" class="view" tabindex="-1">
          <RouterView />
        </main>
      </div>
      <ListeningBar class="bar" :line="line" />
    </div>
  </ConfigProvider>
</template>

<style scoped>
/* Seen by those who come to it by Tab, the first of all. */
.skip {
  position: fixed;
  top: 8px;
  left: 8px;
  z-index: 60;
  padding: 6px 12px;
  border: 1px solid var(--fern);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--fern);
}

.skip:not(:focus) {
  clip-path: inset(50%);
  pointer-events: none;
}

.frame {
  display: grid;
  grid-template: 1fr auto / 84px 1fr;
  height: 100%;
}

.work {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.view {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.bar {
  grid-column: 1 / -1;
}

@media (max-width: 860px) {
  .frame {
    grid-template-columns: 60px 1fr;
  }
}
</style>
