<script setup lang="ts">
import { Button, Input, Modal, Popconfirm } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { at } from '@/shared/at'

const PRINTS = [6, 7, 8, 9, 10, 11, 12, 14, 16, 20, 24]

const live = useLive()
const sentences = useSentences()
const all = ref<Schemas['KitsView'] | null>(null)
const adding = ref<'copy' | 'empty' | null>(null)
const name = ref('')
const room = ref('')
const file = ref<HTMLInputElement>()
const open = computed(() => live.kit?.kit)
const others = computed(() => (all.value?.kits ?? []).map((kit) => ({ value: kit.id, label: words(kit) })))
const words = (kit: Schemas['Kit']) => `${kit.name} · ${kit.room}`

useFetched(
  () => live.signature('kit', 'lesson'),
  () => live.state,
  () => answer(api.GET('/api/kits')),
  (next) => (all.value = next),
)
const deleting = computed(() => {
  const next = all.value?.kits.find((kit) => kit.id !== open.value?.id)
  const after = next ? `This lesson switches to “${next.name}”.` : 'This lesson then has no cameras.'
  return `Delete “${open.value?.name}” with its devices and their corrections? ${after}`
})
async function take(kit_id: string) {
  await sentences.attempt(() => answer(api.PUT('/api/kits/open', { body: { kit_id } })))
}
async function add() {
  if (!name.value.trim() || !room.value.trim()) return
  const body = {
    name: name.value.trim(),
    room: room.value.trim(),
    copy_of: adding.value === 'copy' ? (open.value?.id ?? null) : null,
  }
  if (await sentences.attempt(() => answer(api.POST('/api/kits', { body })))) adding.value = null
}
async function remove() {
  const before = open.value
  if (!before) return
  await sentences.attempt(() =>
    answer(api.DELETE('/api/kits/{kit_id}', { params: { path: { kit_id: before.id } } })),
  )
}
async function bring() {
  const chosen = file.value?.files?.[0]
  if (file.value) file.value.value = ''
  if (!chosen) return
  const text = await chosen.text()
  await sentences.attempt(() =>
    answer(
      api.POST('/api/kits/import', {
        body: text as never,
        bodySerializer: (body: unknown) => body as string,
      }),
    ),
  )
}
async function say(print: string) {
  const body = { print_pt: Number(print) }
  await sentences.attempt(() => answer(api.PUT('/api/kit/print', { body })))
}
</script>

<template>
  <div v-if="open" v-roving class="bar" role="toolbar" aria-label="This kit">
    <div class="kit">
      <ChoiceList small label="Kit of this lesson" :value="open.id" :options="others" @change="take" />
    </div>
    <Button size="small" @click="((adding = 'copy'), (name = `${open.name}, copy`), (room = open.room))"
      >Copy for another room</Button
    >
    <Button size="small" @click="((adding = 'empty'), (name = ''), (room = ''))">New kit</Button>
    <Button size="small" :href="at(`/api/kits/${open.id}/export`)" download>Export</Button>
    <Button size="small" @click="file?.click()">Import</Button>
    <Popconfirm :title="deleting" ok-text="Delete it" cancel-text="Keep it" @confirm="remove"
      ><Button size="small">Delete</Button></Popconfirm
    >
    <label class="print soft"
      >Smallest print on your pages
      <ChoiceList
        small
        label="Smallest print on your pages"
        :value="String(live.kit?.print_pt ?? 10)"
        :options="PRINTS.map((size) => ({ value: String(size), label: `${size} point` }))"
        @change="say"
    /></label>
    <input
      ref="file"
      class="hidden"
      type="file"
      accept=".json,application/json"
      aria-label="Kit file"
      tabindex="-1"
      @change="bring"
    />
    <Modal
      :open="adding !== null"
      :title="adding === 'copy' ? 'Copy this kit for another room' : 'A new kit'"
      ok-text="Make it"
      :ok-button-props="{ disabled: !name.trim() || !room.trim() }"
      @ok="add"
      @cancel="adding = null"
    >
      <form @submit.prevent="add">
        <label class="field">Name <Input v-model:value="name" :maxlength="60" /></label>
        <label class="field">Room <Input v-model:value="room" :maxlength="60" /></label>
        <button type="submit" hidden>Make it</button>
      </form>
    </Modal>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 12px;
}
.kit {
  width: 250px;
}
.print {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 13.5px;
}
.print :deep(select) {
  width: 104px;
}
.field {
  display: grid;
  gap: 6px;
  margin-top: 10px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
  pointer-events: none;
}
</style>
