<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type { Schemas } from '@/api/client'
import { useWays } from './ways'
import { at, base } from '@/shared/at'

const address = location.origin + base
const takesIt = 'MediaStreamTrackGenerator' in globalThis // what the extension stands on

defineProps<{ view: Schemas['WaysView'] }>()
const ways = useWays()
</script>

<template>
  <div v-if="view.code" class="pairing" role="alert">
    <p>An extension asks to be paired. Does it show the same code?</p>
    <output class="num">{{ view.code }}</output>
    <div class="row">
      <Button type="primary" @click="ways.paired(view.code)">The same</Button>
      <Button @click="ways.refused">Not the same</Button>
    </div>
  </div>
  <p v-else-if="!takesIt && !view.paired">
    This browser takes no such extension. Open the call in Chromium, Chrome or Edge for it (Cartouche may stay
    here), or share the outgoing window.
  </p>
  <template v-else-if="!view.paired">
    <p><strong>Once, on this computer:</strong></p>
    <ol>
      <li>
        Open <span class="num">chrome://extensions</span>, switch Developer mode on, press Load unpacked.
      </li>
      <li>
        <template v-if="base">
          Save <a :href="at('/api/ways/extension.zip')" download>cartouche-extension.zip</a>, unpack it, and
          choose that folder.
        </template>
        <template v-else
          >Choose this folder: <span class="num folder">{{ view.extension_folder }}</span></template
        >
      </li>
      <li v-if="base">
        Press the extension’s icon, type the address <span class="num folder">{{ address }}</span>, then Pair.
      </li>
      <li v-else>Press the extension’s icon, then Pair.</li>
    </ol>
  </template>
  <div v-else class="row">
    <span class="paired">The extension is paired.</span>
    <Button size="small" @click="ways.unpair">Unpair</Button>
  </div>
</template>

<style scoped>
.pairing {
  display: grid;
  gap: 8px;
  padding: 12px;
  border-radius: 10px;
  background: var(--lapis-tint);
}
output {
  font-size: 26px;
  letter-spacing: 0.12em;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.paired {
  color: var(--malachite);
  font-weight: 650;
}
ol {
  margin: 0;
  padding-left: 20px;
}
.folder {
  overflow-wrap: anywhere;
  font-size: 13px;
}
</style>
