<script setup lang="ts">
import { Button, Skeleton, message } from 'ant-design-vue'
import { useRouter } from 'vue-router'
import { useMixActions, useMixes } from '../composables/useMixes'
import { useTracks } from '../composables/useTracks'

const router = useRouter()
const { data: mixes, isPending, error, refetch } = useMixes()
const { data: tracks } = useTracks()
const actions = useMixActions()

const when = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})

async function create() {
  try {
    const mix = await actions.create('New mix')
    await router.push({ name: 'order', params: { mix: mix.id } })
  } catch (e) {
    message.error((e as Error).message)
  }
}
</script>

<template>
  <section class="start">
    <header>
      <h1>Mixes</h1>
      <Button type="primary" @click="create">New mix</Button>
    </header>
    <Skeleton v-if="isPending" active :paragraph="{ rows: 3 }" />
    <div v-else-if="error" class="note" role="alert">
      {{ error.message }} <Button size="small" @click="refetch()">Try again</Button>
    </div>
    <ul v-else-if="mixes?.length">
      <li v-for="mix in mixes" :key="mix.id">
        <RouterLink :to="{ name: mix.entries > 1 ? 'transitions' : 'order', params: { mix: mix.id } }">
          <span class="name clip">{{ mix.name }}</span>
          <span class="soft">{{ mix.entries }} {{ mix.entries === 1 ? 'track' : 'tracks' }}</span>
          <span class="faint">{{ when.format(new Date(mix.changed_at)) }}</span>
        </RouterLink>
      </li>
    </ul>
    <div v-else class="note">
      <p>
        A mix begins with tracks.
        <template v-if="tracks?.length"
          >You have {{ tracks.length }} in the library: begin a mix and put them in order.</template
        >
        <template v-else>
          <RouterLink :to="{ name: 'tracks' }">Bring some in</RouterLink>, then begin a mix and put them in
          order.
        </template>
      </p>
    </div>
  </section>
</template>

<style scoped>
.start {
  max-width: 720px;
  padding: 28px 32px;
}

header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 16px;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

li + li {
  border-top: 1px solid var(--line);
}

a {
  display: grid;
  grid-template-columns: 1fr 80px 120px;
  align-items: baseline;
  gap: 16px;
  padding: 12px 16px;
  color: inherit;
  text-decoration: none;
}

li a:hover {
  background: var(--fern-soft);
}

.name {
  font-size: 16px;
  font-weight: 600;
}

.note {
  padding: 20px;
  border: 1px dashed var(--line-strong);
  border-radius: var(--radius);
}

.note a {
  display: inline;
  padding: 0;
  color: var(--fern);
  text-decoration: underline;
}
</style>
