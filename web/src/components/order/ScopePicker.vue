<script setup lang="ts">
import { computed } from 'vue'
import { useGathered } from '../../composables/library/useLibrary'
import PickField from '../shared/PickField.vue'

/** Which part of the library: all of it, a list, or what a saved filter finds. */
defineProps<{ label: string }>()
const list = defineModel<string | undefined>('list', { required: true })
const search = defineModel<string>('search', { required: true })

const { data: gathered } = useGathered()
const options = computed(() => [
  { value: '', label: 'All tracks' },
  ...(gathered.value?.lists ?? []).map((l) => ({ value: `list ${l.id}`, label: l.name })),
  ...(gathered.value?.filters ?? []).map((f) => ({ value: `filter ${f.id}`, label: `Filter: ${f.name}` })),
])
const filter = computed(() => gathered.value?.filters.find((f) => f.search === search.value))
const chosen = computed({
  get: () =>
    list.value ? `list ${list.value}` : filter.value && search.value ? `filter ${filter.value.id}` : '',
  set: (value) => {
    const [kind, id] = value.split(' ')
    list.value = kind === 'list' ? id : undefined
    const saved = kind === 'filter' ? gathered.value?.filters.find((f) => f.id === id) : undefined
    if (saved || filter.value) search.value = saved?.search ?? ''
  },
})
</script>

<template>
  <PickField v-model:value="chosen" :options="options" :label="label" class="scope" />
</template>

<style scoped>
.scope {
  min-width: 0;
  max-width: 100%;
}
</style>
