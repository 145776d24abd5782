<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'

/** A phone's invitation beside the cameras. It comes as the page's camera. */
const emit = defineEmits<{ come: [deviceId: string] }>()
const sentences = useSentences()
const invitation = shallowRef<Schemas['InvitationView'] | null>(null)
const LOOK_EVERY_MS = 1000
const shown = computed(() => invitation.value && !invitation.value.device_id)

async function invite() {
  const body = { name: 'Page camera', rig: 'arm-own-side' as const, serves: 'page' as const }
  invitation.value =
    (await sentences.attempt(() => answer(api.POST('/api/guests/invitation', { body })))) ?? null
}
useIntervalFn(async () => {
  if (!shown.value) return
  const next = await answer(api.GET('/api/guests/invitation')).catch(() => null)
  if (!next) return
  invitation.value = next
  if (next.device_id) emit('come', next.device_id)
}, LOOK_EVERY_MS)
</script>

<template>
  <section class="card" aria-label="A phone or tablet instead">
    <h2>A phone or tablet instead</h2>
    <template v-if="shown && invitation">
      <!-- eslint-disable-next-line vue/no-v-html -- drawn by our own server -->
      <div class="qr" role="img" aria-label="QR code of the address" v-html="invitation.qr" />
      <p>
        Scan it with the phone, or type <b class="num">{{ invitation.address }}</b> and the code
        <b class="num">{{ invitation.code }}</b>. The phone warns once of an address it does not know: go on.
      </p>
    </template>
    <template v-else>
      <p class="soft">It needs no app: it scans a code and shows its rear camera.</p>
      <Button @click="invite">Show its code</Button>
    </template>
  </section>
</template>

<style scoped>
section {
  padding: 14px;
  display: grid;
  gap: 8px;
  justify-items: start;
  align-content: start;
}
p {
  margin: 0;
  font-size: 14px;
  overflow-wrap: anywhere;
}
.qr {
  width: 168px;
  height: 168px;
}
.qr :deep(svg) {
  width: 100%;
  height: 100%;
}
</style>
