<script setup lang="ts">
defineProps<{ name: 'tracks' | 'grid' | 'order' | 'edits' | 'transitions' | 'layers' | 'render' | 'stick' }>()
</script>

<template>
  <svg
    viewBox="0 0 24 24"
    width="22"
    height="22"
    fill="none"
    stroke="currentColor"
    stroke-width="1.6"
    aria-hidden="true"
  >
    <template v-if="name === 'tracks'">
      <path d="M4 7v10M8 4v16M12 9v6M16 5v14M20 8v8" stroke-linecap="round" />
    </template>
    <template v-else-if="name === 'grid'">
      <path d="M5 4v16M10 4v16M15 4v16M20 4v16" stroke-width="1.1" />
      <path d="M3 8.500h4M8 12h4M13 15.500h4M18 8.500h4" stroke-linecap="round" stroke-width="2.200" />
    </template>
    <template v-else-if="name === 'order'">
      <path d="M9 6h11M9 12h11M9 18h11" stroke-linecap="round" />
      <path
        d="M3 5.500l1.500-1v4.500M3 11.500c1-1.200 2.600-.4 1.500 1L3 14h2.500M3 17h2l-1 1.400c1.300.2 1.300 2-.9 1.600"
        stroke-width="1.200"
      />
    </template>
    <template v-else-if="name === 'edits'">
      <path d="M3 8h6v8H3zM15 8h6v8h-6z" stroke-linejoin="round" />
      <path d="M12 4v2M12 9v2M12 14v2M12 19v1" stroke-linecap="round" />
    </template>
    <template v-else-if="name === 'transitions'">
      <path d="M3 12h18" />
      <path d="M4 12V6M7 12V4M10 12V7M13 12V9" stroke-linecap="round" />
      <path d="M11 12v3M14 12v5M17 12v8M20 12v6" stroke-linecap="round" />
    </template>
    <template v-else-if="name === 'layers'">
      <path d="M3 18h18" />
      <path d="M5 13.500h7M15 13.500h4M8 9h10M4 4.500h5" stroke-linecap="round" stroke-width="2.600" />
    </template>
    <template v-else-if="name === 'stick'">
      <path d="M7 9h10v12H7zM9 9V3h6v6" stroke-linejoin="round" />
      <path d="M11 5.500v1M13 5.500v1" stroke-linecap="round" />
    </template>
    <template v-else>
      <path d="M12 3v11M8 10.500l4 4 4-4M4 17v3h16v-3" stroke-linecap="round" stroke-linejoin="round" />
    </template>
  </svg>
</template>
