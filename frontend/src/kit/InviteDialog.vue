<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { api, answer, type Device, type Schemas } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import RigChoice from './RigChoice.vue'
import RoleChoice from './RoleChoice.vue'
import type { Serves } from './serves'

const LOOK_EVERY_MS = 1000

const shown = defineModel<boolean>('open', { required: true })
const props = defineProps<{ rigs: Schemas['RigView'][]; again: Device | null }>()
const live = useLive()
const sentences = useSentences()
const networks = ref<Schemas['NetworkView'][]>([])
const address = ref('')
const invitation = ref<Schemas['InvitationView'] | null>(null)
const trouble = ref<string | null>(null)
const name = ref('')
const rig = ref<Schemas['RigView']['id']>('arm-own-side')
const serves = ref<Serves>('page')
let timer = 0
let shownFor: string | null = null // the device that the shown code is for, null for a new one

const come = computed(() => invitation.value?.device_id ?? null)
const comeName = computed(() => live.kit?.devices.find((one) => one.id === come.value)?.name)
const left = computed(() => {
  const seconds = Math.ceil(invitation.value?.left_s ?? 0)
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
})
const network = computed(() => networks.value.find((one) => one.address === address.value))

onScopeDispose(stop)
watch(shown, (is) => (is ? begin() : stop()))

function stop() {
  window.clearInterval(timer)
}
async function begin() {
  timer = window.setInterval(look, LOOK_EVERY_MS)
  if (await stillHolds()) return
  name.value = props.again?.name ?? ''
  if (props.again) {
    rig.value = props.again.rig as Schemas['RigView']['id']
    serves.value = props.again.serves ?? 'nothing'
  }
  invitation.value = trouble.value = null
  networks.value = (await sentences.attempt(() => answer(api.GET('/api/guests/networks')))) ?? []
  address.value = networks.value[0]?.address ?? ''
  await invite()
}
/** The code that was shown before, where nobody has used it yet: closing the dialog does not end it. */
async function stillHolds(): Promise<boolean> {
  const before = invitation.value
  if (!before || shownFor !== (props.again?.id ?? null)) return false
  const now = await answer(api.GET('/api/guests/invitation')).catch(() => null)
  if (!now || now.code !== before.code || now.device_id || now.left_s <= 0) return false
  invitation.value = now
  return true
}
async function withdraw() {
  await sentences.attempt(() => answer(api.DELETE('/api/guests/invitation')))
  invitation.value = null
  shown.value = false
}
const stated = () => ({
  address: address.value || null,
  device_id: props.again?.id ?? null,
  name: name.value.trim() || null,
  rig: rig.value,
  serves: serves.value === 'nothing' ? null : serves.value,
})
async function invite() {
  trouble.value = null
  try {
    invitation.value = await answer(api.POST('/api/guests/invitation', { body: stated() }))
    shownFor = props.again?.id ?? null
  } catch (error) {
    invitation.value = null
    trouble.value = (error as Error).message
  }
}
async function look() {
  if (!invitation.value || come.value) return
  const next = await answer(api.GET('/api/guests/invitation')).catch(() => undefined)
  if (next !== undefined) invitation.value = next
}
async function restate() {
  if (!invitation.value || come.value || props.again) return
  await sentences.attempt(() => answer(api.PUT('/api/guests/invitation', { body: stated() })))
}
</script>

<template>
  <Modal
    v-model:open="shown"
    :title="again ? `Invite ${again.name} again` : 'Invite a phone or tablet'"
    :footer="null"
    width="820px"
    :destroy-on-close="true"
  >
    <div v-if="trouble" class="trouble" role="alert">
      <p>{{ trouble }}</p>
      <Button type="primary" @click="invite">Try again</Button>
    </div>
    <div v-else-if="come" class="come">
      <p class="big">{{ comeName ?? 'The phone' }} is connected.</p>
      <p class="soft">
        Its picture is on its card now. It comes back by itself after lost Wi-Fi, a locked screen or a reload.
      </p>
      <Button type="primary" @click="shown = false">Done</Button>
    </div>
    <div v-else-if="invitation" class="invitation">
      <div class="code">
        <!-- eslint-disable-next-line vue/no-v-html -- drawn by our own server -->
        <div class="qr" role="img" aria-label="QR code of the address" v-html="invitation.qr" />
        <p>Scan it with the phone’s camera, or open</p>
        <p class="address num">{{ invitation.address }}</p>
        <p>and type</p>
        <p class="signs num" aria-label="The code">{{ invitation.code }}</p>
        <template v-if="invitation.left_s > 0">
          <p class="soft">For one device. {{ left }} left, also when this is closed.</p>
          <Button size="small" @click="withdraw">Withdraw this code</Button>
        </template>
        <Button v-else type="primary" @click="invite">Code expired: get a new one</Button>
      </div>
      <div class="state">
        <template v-if="!again">
          <label
            >Your name for it
            <Input v-model:value="name" :maxlength="60" placeholder="My phone" @blur="restate"
          /></label>
          <RoleChoice v-model="serves" @update:model-value="restate" />
          <RigChoice
            :rig="rig"
            :rigs="rigs.filter((one) => one.id !== 'as-it-is')"
            @change="(value) => ((rig = value), restate())"
          />
        </template>
        <div v-if="networks.length > 1">
          <ChoiceList
            label="Which network the phone is on"
            :value="address"
            :options="
              networks.map((one) => ({ value: one.address, label: `${one.address} · ${one.adapter}` }))
            "
            @change="(value) => ((address = value), invite())"
          />
        </div>
        <p v-if="network" class="soft small">
          The phone must be on this computer’s network: {{ network.words }}.
        </p>
        <p class="soft small">
          The phone’s browser may warn once. Choose Advanced or Show details, then continue.
        </p>
      </div>
    </div>
  </Modal>
</template>

<style scoped>
.invitation {
  display: grid;
  grid-template-columns: 320px 1fr;
  gap: 26px;
}
.code {
  text-align: center;
  display: grid;
  gap: 4px;
  justify-items: center;
}
.qr {
  width: 240px;
  height: 240px;
  padding: 6px;
  background: #fff;
  border: 1px solid var(--line);
  border-radius: 12px;
}
.address {
  font-size: 17px;
  font-weight: 700;
}
.signs {
  font-size: 34px;
  font-weight: 700;
  letter-spacing: 0.18em;
  color: var(--lapis);
  line-height: 1.2;
}
.state {
  display: grid;
  gap: 16px;
  align-content: start;
}
label {
  display: grid;
  gap: 6px;
}
.small {
  font-size: 13.5px;
}
.trouble,
.come {
  display: grid;
  gap: 12px;
  justify-items: start;
}
.big {
  font-size: 21px;
  font-weight: 700;
  color: var(--malachite);
}
</style>
