<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useTools } from './tools'
import { at } from '@/shared/at'

type Sheet = Schemas['SheetView']
const tools = useTools()
const sheets = computed(() => tools.view?.sheets ?? [])
const looked = ref<string | null>(null)
const one = computed(() => sheets.value.find((sheet) => sheet.id === looked.value) ?? null)
const name = ref('')
const picture = (sheet: Sheet) => at(`/api/teach/sheets/${sheet.id}.png`)

async function look(sheet: Sheet) {
  looked.value = looked.value === sheet.id ? null : sheet.id
  name.value = sheet.name
  await nextTick()
}
const path = () => ({ sheet_id: looked.value! })
const show = () =>
  tools.ask(() => answer(api.POST('/api/teach/sheets/{sheet_id}/show', { params: { path: path() } })))
const rename = () =>
  name.value.trim() &&
  name.value !== one.value?.name &&
  tools.ask(() =>
    answer(
      api.PUT('/api/teach/sheets/{sheet_id}', {
        params: { path: path() },
        body: { name: name.value.trim() },
      }),
    ),
  )
async function remove() {
  await tools.ask(() => answer(api.DELETE('/api/teach/sheets/{sheet_id}', { params: { path: path() } })))
  looked.value = null
}
</script>

<template>
  <section v-if="sheets.length" class="sheets" aria-label="Sheets">
    <div v-roving class="strip" role="group" aria-label="Kept sheets">
      <button
        v-for="sheet in sheets"
        :key="sheet.id"
        :aria-pressed="sheet.id === looked"
        :class="{ shown: sheet.shown }"
        :aria-label="`${sheet.name}${sheet.shown ? ', shown to learners' : ''}${sheet.waits ? ', not on the disk yet' : ''}`"
        @click="look(sheet)"
      >
        <img v-if="!sheet.waits" :src="picture(sheet)" alt="" />
        <span v-else class="waits">No room yet</span>
      </button>
    </div>
    <div v-if="one" class="card looked" role="dialog" :aria-label="`Sheet: ${one.name}`">
      <img v-if="!one.waits" :src="picture(one)" :alt="one.name" />
      <div class="does">
        <Input
          v-model:value="name"
          aria-label="Name of the sheet"
          :maxlength="60"
          @blur="rename"
          @press-enter="rename"
        />
        <Button v-if="!one.shown" type="primary" @click="show">Show it to learners</Button>
        <Button v-else type="primary" @click="tools.act('live')"
          >Back to the page <kbd>{{ tools.keyOf('live') }}</kbd></Button
        >
        <Button :href="picture(one)" :download="`${one.name}.png`">Save as PNG</Button>
        <Button @click="remove">Put away</Button>
        <Button @click="looked = null">Close</Button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.sheets {
  position: relative;
  flex: none;
}
.strip {
  display: flex;
  gap: 8px;
  overflow-x: auto;
  max-width: 230px;
  padding: 2px;
}
.strip button {
  flex: none;
  width: 54px;
  height: 68px;
  padding: 0;
  border: 2px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
  overflow: hidden;
  cursor: pointer;
}
.strip button.shown {
  border-color: var(--lapis);
}
.strip img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.waits {
  font-size: 11px;
  color: var(--ochre);
}
.looked {
  position: absolute;
  right: 0;
  bottom: 212px;
  z-index: 20;
  display: grid;
  grid-template-columns: auto 190px;
  gap: 14px;
  padding: 14px;
  box-shadow: 0 10px 40px rgb(29 36 51 / 22%);
}
.looked img {
  max-height: 400px;
  max-width: 420px;
  border: 1px solid var(--line);
}
.does {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.does .ant-btn {
  min-height: 40px;
}
</style>
