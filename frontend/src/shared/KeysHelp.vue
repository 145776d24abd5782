<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useMicrophones } from '@/sound/microphones'
import { useTools } from '@/teach/tools'
import { heard, useKeys } from './keys'
import { KEYMAP, keyShown } from './keymap'
import { useSentences } from './sentences'

const open = ref(false)
const tools = useTools()
const sentences = useSentences()
const microphones = useMicrophones()
const shownKeys = (row: { keys: readonly string[]; shown: string }) =>
  row.keys.map((key, at) => (at ? keyShown(key) : row.shown))
function mute() {
  if (microphones.openNow()) void microphones.open(null)
  else sentences.say('All microphones are closed already.')
}
const rows = computed(() => [
  ...(heard.includes('teach') ? (tools.view?.actions ?? []) : []),
  ...heard.flatMap((screen) => [...KEYMAP[screen]]),
])
useKeys('everywhere', { help: () => (open.value = true), mute, talk: () => void microphones.hold(true) })
useEventListener(document, 'keyup', (event) => {
  if (event.key.toLowerCase() === 't') void microphones.hold(false)
})
useEventListener(window, 'blur', () => void microphones.hold(false)) // a key let go elsewhere is let go
</script>

<template>
  <Button class="help" type="text" aria-label="Keys of this screen" @click="open = true">?</Button>
  <Modal v-model:open="open" title="Keys of this screen" :footer="null" width="460px">
    <dl>
      <template v-for="row in rows" :key="row.shown">
        <dt>
          <kbd
            v-for="key in row.keys.length > 3 ? [row.shown] : shownKeys(row)"
            :key="key"
            :data-keys="row.keys.join(' ')"
            >{{ key }}</kbd
          >
        </dt>
        <dd>{{ row.says }}</dd>
      </template>
    </dl>
    <p class="soft">Keys rest while you type. Tab walks through the screen, arrows move inside a list.</p>
    <RouterLink to="/manual" @click="open = false">Open the manual</RouterLink>
  </Modal>
</template>

<style scoped>
.help {
  min-width: 40px;
  min-height: 40px;
  font-weight: 650;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 6px 16px;
  margin: 8px 0 14px;
}
dd {
  margin: 0;
}
kbd {
  white-space: nowrap;
  margin-right: 4px;
}
</style>
