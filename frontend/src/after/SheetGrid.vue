<script setup lang="ts">
import { Button, Input, Popconfirm } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import type { After, Held, Sheet } from './after'
import { at } from '@/shared/at'

/** The lesson's sheets in order: named, described, turned, moved, put away. */
const props = defineProps<{
  held: Held
  ask: (work: () => Promise<After>) => Promise<unknown>
  isHeard: (sheetId: string) => boolean
}>()
defineEmits<{ hear: [sheetId: string]; move: [sheetId: string, by: 1 | -1] }>()
const chosen = ref<string | null>(null)
const one = computed(() => props.held.sheets.find((sheet) => sheet.id === chosen.value) ?? null)
const place = computed(() => props.held.sheets.findIndex((sheet) => sheet.id === chosen.value))
const picture = (sheet: Sheet) =>
  at(`/api/after/sheets/${sheet.id}.png?ink=${sheet.ink}&of=${sheet.width}x${sheet.height}`)

const proposed = computed(() => props.held.sheets.filter((sheet) => sheet.proposed))

const change = (sheetId: string, body: Partial<Schemas['SheetChange']>) =>
  props.ask(() =>
    answer(
      api.PUT('/api/after/sheets/{sheet_id}', {
        params: { path: { sheet_id: sheetId } },
        body: { turn: false, ...body },
      }),
    ),
  )
const remove = (sheetId: string) =>
  props.ask(() =>
    answer(api.DELETE('/api/after/sheets/{sheet_id}', { params: { path: { sheet_id: sheetId } } })),
  )
async function takeAll() {
  for (const sheet of proposed.value) await change(sheet.id, { name: sheet.proposed })
}
function named(event: Event, key: 'name' | 'words') {
  const text = (event.target as HTMLInputElement).value.trim()
  if (one.value && text !== one.value[key] && (text || key === 'words'))
    void change(one.value.id, { [key]: text })
}
</script>

<template>
  <section aria-label="Sheets">
    <p v-if="!held.sheets.length && !held.put_away.length" class="soft">
      No sheet was kept. In Teach, <kbd>K</kbd> keeps one.
    </p>
    <p v-if="proposed.length > 1" class="all">
      <span class="soft">Titles were read on {{ proposed.length }} sheets.</span>
      <Button size="small" @click="takeAll">Take them</Button>
    </p>
    <div v-roving class="grid" role="group" aria-label="Kept sheets">
      <button
        v-for="sheet in held.sheets"
        :key="sheet.id"
        :class="{ on: sheet.id === chosen }"
        :aria-pressed="sheet.id === chosen"
        @click="chosen = sheet.id === chosen ? null : sheet.id"
      >
        <img :src="picture(sheet)" alt="" loading="lazy" />
        <span>{{ sheet.name }}</span>
        <em v-if="sheet.proposed" class="soft">{{ sheet.proposed }}?</em>
      </button>
    </div>
    <div v-if="one" class="card one" role="group" :aria-label="`Sheet: ${one.name}`">
      <img :src="picture(one)" :alt="one.words || one.name" />
      <div class="does">
        <label
          >Title
          <Input
            :key="`${one.id} ${one.name}`"
            :default-value="one.name"
            :maxlength="60"
            @blur="named($event, 'name')"
            @press-enter="named($event, 'name')"
        /></label>
        <Button v-if="one.proposed" class="call" @click="change(one.id, { name: one.proposed })"
          >Call it “{{ one.proposed }}”, as it says</Button
        >
        <label
          >What it says, for those who do not see it
          <textarea
            :key="one.id"
            :value="one.words"
            :placeholder="one.read && `Read on it: ${one.read}`"
            maxlength="2000"
            rows="5"
            @change="named($event, 'words')"
          />
        </label>
        <div v-roving class="row" role="group" aria-label="This sheet">
          <Button :disabled="place <= 0" @click="$emit('move', one.id, -1)">Earlier</Button>
          <Button :disabled="place >= held.sheets.length - 1" @click="$emit('move', one.id, 1)">Later</Button>
          <Button @click="change(one.id, { turn: true })">Turn</Button>
          <Button :href="picture(one)" :download="`${one.name}.png`">Save as PNG</Button>
          <Button v-if="isHeard(one.id)" type="primary" ghost @click="$emit('hear', one.id)"
            >Hear what was said</Button
          >
          <Button danger @click="change(one.id, { away: true })">Put away</Button>
        </div>
      </div>
    </div>
    <div v-if="held.put_away.length" class="away">
      <span class="soft">Put away:</span>
      <span v-for="sheet in held.put_away" :key="sheet.id" class="gone">
        {{ sheet.name }}
        <Button size="small" @click="change(sheet.id, { away: false })">Put back</Button>
        <Popconfirm
          title="Deleted for good, it cannot be put back."
          ok-text="Delete for good"
          @confirm="remove(sheet.id)"
          ><Button size="small" danger>Delete for good</Button></Popconfirm
        >
      </span>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 12px;
}
.grid {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
}
.grid button {
  appearance: none;
  width: 132px;
  padding: 6px;
  border: 2px solid var(--line);
  border-radius: 9px;
  background: var(--sheet);
  font: inherit;
  font-size: 13.5px;
  color: var(--ink);
  cursor: pointer;
  display: grid;
  gap: 5px;
  overflow-wrap: anywhere;
}
.grid button.on {
  border-color: var(--lapis);
}
.grid img {
  width: 100%;
  height: 150px;
  object-fit: contain;
}
.all {
  margin: 0;
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.call {
  justify-self: start;
  height: auto;
  white-space: normal;
  text-align: start;
}
.one {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 16px;
  padding: 14px;
}
.one img {
  max-height: 380px;
  max-width: 420px;
  border: 1px solid var(--line);
}
.does,
.does label {
  display: grid;
  gap: 6px;
  align-content: start;
}
.does {
  gap: 12px;
}
textarea {
  font: inherit;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
}
.row,
.away {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
}
.gone {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
</style>
