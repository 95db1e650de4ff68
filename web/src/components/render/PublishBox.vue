<script setup lang="ts">
import { Button, Checkbox, Input, Modal } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import type { Host, PublishWish } from '../../api/types'

/** Where a rendered file is published, and as what. */
const props = defineProps<{ title: string; host: Host | undefined }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ publish: [wish: PublishWish]; forget: [] }>()

const address = ref('')
const token = ref('')
const name = ref('')
const tags = ref('')
const isPrivate = ref(true)
watch(open, (shown) => {
  if (!shown) return
  address.value ||= props.host?.host ?? ''
  name.value = props.title
  token.value = ''
})
const isKnown = computed(() => !!props.host?.has_token && props.host.host === address.value)
const ready = computed(
  () => !!address.value.trim() && !!name.value.trim() && (isKnown.value || !!token.value),
)

function go() {
  emit('publish', {
    host: address.value,
    token: token.value || null,
    title: name.value.trim(),
    tags: tags.value.split(',').map((t) => t.trim()).filter(Boolean), // prettier-ignore
    private: isPrivate.value,
  })
  open.value = false
}
</script>

<template>
  <Modal
    v-model:open="open"
    title="Publish this file"
    ok-text="Send it"
    :ok-button-props="{ disabled: !ready }"
    @ok="go"
  >
    <div class="fields">
      <label for="publish-host">Host</label>
      <Input id="publish-host" v-model:value="address" placeholder="https://mixes.example" />
      <label for="publish-token">Token</label>
      <span v-if="isKnown" class="soft kept"
        >kept, from last time
        <Button size="small" type="link" @click="emit('forget')">forget it</Button></span
      >
      <Input.Password
        v-else
        id="publish-token"
        v-model:value="token"
        autocomplete="off"
        placeholder="from your account’s page there"
      />
      <label for="publish-title">Title</label>
      <Input id="publish-title" v-model:value="name" :maxlength="200" />
      <label for="publish-tags">Tags</label>
      <Input id="publish-tags" v-model:value="tags" placeholder="downtempo, live" />
      <span />
      <Checkbox v-model:checked="isPrivate">Private, until you say otherwise there</Checkbox>
    </div>
    <p class="soft">
      Its track list with times and its cover go along. Where the connection breaks, it goes on from there.
      The token is kept in the system’s keyring, or else in a file that only you can read.
    </p>
  </Modal>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 70px 1fr;
  align-items: center;
  gap: 8px 12px;
}

.kept {
  display: flex;
  align-items: center;
}

p {
  margin: 14px 0 0;
}
</style>
