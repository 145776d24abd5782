<script setup lang="ts">
import { Button, Drawer, Switch } from 'ant-design-vue'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useEventListener } from '@vueuse/core'
import { keyShown } from '@/shared/keymap'
import RemoteInvitation from './RemoteInvitation.vue'
import { openSmallWindow } from './small'
import type { ActionName } from './actions'
import { useTools } from './tools'

/** What stands behind: what happens by itself, the small window, the remote, and the keys. */
const open = defineModel<boolean>('open', { required: true })
const tools = useTools()
const waiting = ref<ActionName | null>(null)

const hold = (on: boolean) => tools.ask(() => answer(api.PUT('/api/teach/auto-hold', { body: { on } })))
const keep = (on: boolean) => tools.ask(() => answer(api.PUT('/api/teach/auto-sheets', { body: { on } })))
const choose = (action: ActionName, key: string | null) =>
  tools.ask(() => answer(api.PUT('/api/teach/keys', { body: { action, key } })))
useEventListener(
  document,
  'keydown',
  (event) => {
    const action = waiting.value
    if (!action || ['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return
    event.preventDefault()
    event.stopImmediatePropagation()
    waiting.value = null
    if (event.key !== 'Escape') void choose(action, event.key)
  },
  { capture: true },
)
const rows = () => (tools.view?.actions ?? []) as Schemas['ActionView'][]
</script>

<template>
  <Drawer
    v-model:open="open"
    title="More for the lesson"
    placement="right"
    :width="430"
    @close="waiting = null"
  >
    <section>
      <h2>By itself</h2>
      <label
        ><Switch :checked="tools.view?.auto_hold" @change="(on) => hold(!!on)" /> Hold the page while the
        sheet is changed</label
      >
      <p class="soft">
        A page that leaves stays with the learners as it was, until another lies still. It must be squared up.
      </p>
      <label
        ><Switch :checked="tools.view?.auto_sheets" @change="(on) => keep(!!on)" /> Keep a sheet of each
        finished page</label
      >
      <p class="soft">When the page is changed, what was written on it is kept without the hand.</p>
    </section>
    <section>
      <h2>At hand while the call is in front</h2>
      <Button @click="openSmallWindow">Open the small window</Button>
      <RemoteInvitation v-if="open" />
    </section>
    <section>
      <h2>Keys, clickers and pedals</h2>
      <p class="soft">
        Press <b>Change</b>, then the key, button or pedal that is to do it. Escape leaves it as it is.
      </p>
      <table>
        <tbody>
          <tr v-for="row in rows()" :key="row.name">
            <td>{{ row.says }}</td>
            <td>
              <kbd v-for="key in row.keys.length > 3 ? [row.shown] : row.keys.map(keyShown)" :key="key">{{
                key
              }}</kbd>
            </td>
            <td>
              <Button
                v-if="row.name !== 'plate'"
                size="small"
                :aria-label="`Change the key: ${row.says}`"
                @click="waiting = row.name"
                >{{ waiting === row.name ? 'Press a key …' : 'Change' }}</Button
              >
              <Button v-if="row.own" size="small" @click="choose(row.name, null)">As before</Button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </Drawer>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
  margin-bottom: 22px;
  justify-items: start;
}
h2 {
  font-size: 16px;
}
label {
  display: flex;
  gap: 10px;
  align-items: center;
}
table {
  width: 100%;
  border-collapse: collapse;
}
td {
  padding: 5px 4px;
  border-bottom: 1px solid var(--line);
}
td kbd {
  margin-right: 4px;
}
</style>
