<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useMicrophones } from '@/sound/microphones'
import { heard, useKeys } from './keys'
import { KEYMAP } from './keymap'
import { useLive } from './live'
import { useSentences } from './sentences'

const open = ref(false)
const live = useLive()
const sentences = useSentences()
const microphones = useMicrophones()
function mute() {
  if (live.microphone || microphones.openId) void microphones.open(null)
  else sentences.say('All microphones are closed already.')
}
const rows = computed(() => heard.flatMap((screen) => [...KEYMAP[screen]]))
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
          <kbd :data-keys="row.keys.join(' ')">{{ row.shown }}</kbd>
        </dt>
        <dd>{{ row.says }}</dd>
      </template>
    </dl>
    <p class="soft">Keys rest while you type. Tab walks through the screen, arrows move inside a list.</p>
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
}
</style>
