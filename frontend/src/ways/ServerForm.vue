<script setup lang="ts">
import { Button, Input, InputPassword } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useWays } from './ways'

const props = defineProps<{ view: Schemas['WaysView'] }>()
const ways = useWays()
const address = ref(props.view.server.address)
const token = ref('')
const ice = ref('')
const iceUser = ref('')
const icePassword = ref('')
const SAYS: Record<string, string> = {
  connecting: 'Asking the server…',
  sending: 'The server takes it.',
  waiting: 'Waiting for the server.',
  refused: 'The server refused.',
}
const running = computed(() => props.view.server.state !== 'stopped' && props.view.server.state !== 'refused')
const start = () =>
  ways.server({
    address: address.value.trim(),
    token: token.value.trim(),
    ice: ice.value.trim(),
    ice_user: iceUser.value.trim(),
    ice_password: icePassword.value,
  })
</script>

<template>
  <p v-if="view.server.state !== 'stopped'" role="status" class="state" :class="view.server.state">
    {{ view.server.says ?? SAYS[view.server.state] }}
  </p>
  <Button v-if="running" @click="ways.stopServer">Stop sending</Button>
  <form v-else @submit.prevent="start">
    <label>Address <Input v-model:value="address" placeholder="https://" spellcheck="false" /></label>
    <label>Token <InputPassword v-model:value="token" autocomplete="off" /></label>
    <details>
      <summary>A helper through firewalls (STUN or TURN)</summary>
      <label>Address <Input v-model:value="ice" placeholder="turn:" spellcheck="false" /></label>
      <label>User <Input v-model:value="iceUser" autocomplete="off" /></label>
      <label>Password <InputPassword v-model:value="icePassword" autocomplete="off" /></label>
    </details>
    <Button type="primary" html-type="submit" :disabled="address.trim().length < 8">Start sending</Button>
  </form>
</template>

<style scoped>
form,
details {
  display: grid;
  gap: 8px;
  width: 100%;
}
label {
  display: grid;
  gap: 3px;
  font-size: 14px;
}
.state {
  font-weight: 650;
}
.sending {
  color: var(--malachite);
}
.waiting,
.connecting {
  color: var(--ochre);
}
.refused {
  color: var(--carnelian);
}
</style>
