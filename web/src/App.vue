<script setup lang="ts">
import { usePreferredDark, useStorage } from '@vueuse/core'
import { ConfigProvider } from 'ant-design-vue'
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import AppRail from './components/AppRail.vue'
import DropZone from './components/DropZone.vue'
import ListeningBar from './components/ListeningBar.vue'
import MixHeader from './components/MixHeader.vue'
import { useNews } from './composables/useNews'
import { useMix } from './stores/mix'
import { antTheme } from './theme/antd'

const dark = usePreferredDark()
const theme = computed(() => antTheme(dark.value))
const route = useRoute()
const mix = useMix()
const line = useNews()
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
    <div class="frame">
      <AppRail :mix-id="mixId" />
      <div class="work">
        <MixHeader v-if="route.params.mix" />
        <main class="view">
          <RouterView />
        </main>
      </div>
      <ListeningBar class="bar" :line="line" />
    </div>
  </ConfigProvider>
</template>

<style scoped>
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
</style>
