<script setup lang="ts">
import { Button, Switch } from 'ant-design-vue'
import { onBeforeUnmount, onMounted, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'

/** A phone or tablet is let in to press the lesson's keys. */
const sentences = useSentences()
const view = shallowRef<Schemas['RemotesView'] | null>(null)
const LOOK_EVERY_MS = 1000

async function look() {
  view.value = (await answer(api.GET('/api/teach/remotes')).catch(() => null)) ?? view.value
}
async function invite() {
  await sentences.attempt(() =>
    answer(api.POST('/api/teach/remotes/invitation', { body: { address: null } })),
  )
  await look()
}
async function forget(remote_id: string) {
  await sentences.attempt(() =>
    answer(api.DELETE('/api/teach/remotes/{remote_id}', { params: { path: { remote_id } } })),
  )
  await look()
}
async function allow(device_id: string, on: boolean) {
  const params = { path: { device_id } }
  await sentences.attempt(() =>
    answer(api.PUT('/api/teach/remotes/cameras/{device_id}', { params, body: { on } })),
  )
  await look()
}
const timer = window.setInterval(look, LOOK_EVERY_MS)
onMounted(look)
onBeforeUnmount(() => window.clearInterval(timer))
</script>

<template>
  <div class="remotes">
    <Button @click="invite">Use a phone or tablet as remote</Button>
    <div v-if="view?.invitation && !view.invitation.watcher_id" class="invitation">
      <!-- eslint-disable-next-line vue/no-v-html -- our own drawing -->
      <div class="qr" role="img" aria-label="Code to scan with the phone" v-html="view.invitation.qr" />
      <p>
        Scan it with the phone’s camera, or open <b>{{ view.invitation.address }}</b> and type
        <b class="num code">{{ view.invitation.code }}</b>
      </p>
    </div>
    <p v-for="remote in view?.remotes ?? []" :key="remote.id" class="one">
      {{ remote.name }} <Button size="small" @click="forget(remote.id)">End it</Button>
    </p>
    <label v-for="camera in view?.cameras ?? []" :key="camera.device_id" class="one"
      ><Switch :checked="camera.allowed" @change="(on) => allow(camera.device_id, !!on)" />
      {{ camera.name }} may press too</label
    >
  </div>
</template>

<style scoped>
.remotes {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.invitation {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 14px;
  align-items: center;
}
.qr :deep(svg) {
  width: 150px;
  height: 150px;
}
.code {
  font-size: 22px;
  letter-spacing: 0.12em;
}
.one {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
