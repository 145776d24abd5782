<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { useSentences } from '@/shared/sentences'
import { useInk } from './ink'
import { COLOURS, TOOLS, WIDTHS } from './inkLooks'
import { at } from '@/shared/at'

/** Pens, colours and widths, and what is done to all ink of the page. */
const ink = useInk()
const sentences = useSentences()
const file = ref<HTMLInputElement>()

async function bring(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  await sentences.attempt(async () => {
    const response = await fetch(at('/api/teach/ink/page.svg'), {
      method: 'PUT',
      headers: { 'Content-Type': 'image/svg+xml' },
      body: chosen,
    })
    const body = (await response.json().catch(() => null)) as { detail?: string } | null
    if (!response.ok) throw new Error(body?.detail ?? 'This file could not be read.')
  })
  if (file.value) file.value.value = ''
}
</script>

<template>
  <div v-roving class="ink" role="toolbar" aria-label="Ink">
    <Button
      v-for="one in TOOLS"
      :key="one.tool"
      :class="{ on: ink.tool === one.tool }"
      :aria-pressed="ink.tool === one.tool"
      @click="ink.tool = one.tool"
      >{{ one.word }}</Button
    >
    <span class="gap" />
    <button
      v-for="one in COLOURS"
      :key="one.colour"
      class="dot"
      :class="{ on: ink.colour === one.colour }"
      :aria-pressed="ink.colour === one.colour"
      :aria-label="`Colour: ${one.word}`"
      @click="ink.colour = one.colour"
    >
      <i :style="{ background: one.colour }" />
    </button>
    <button
      v-for="one in WIDTHS"
      :key="one"
      class="dot"
      :class="{ on: ink.width === one }"
      :aria-pressed="ink.width === one"
      :aria-label="`Width: ${one} mm`"
      @click="ink.width = one"
    >
      <i class="wide" :style="{ height: `${Math.max(2, one * 4)}px` }" />
    </button>
    <span class="gap" />
    <Button :disabled="!ink.view?.can_undo" @click="ink.act('undo')">Undo</Button>
    <Button :disabled="!ink.view?.can_redo" @click="ink.act('redo')">Redo</Button>
    <Button :disabled="!ink.view?.count" @click="ink.act('clear')">Clear</Button>
    <Button @click="ink.act(ink.view?.hidden ? 'show' : 'hide')">{{
      ink.view?.hidden ? 'Show ink' : 'Hide'
    }}</Button>
    <Button :href="at('/api/teach/ink/page.svg')" download="ink.svg" :disabled="!ink.view?.count"
      >SVG out</Button
    >
    <Button @click="file?.click()">SVG in</Button>
    <input
      ref="file"
      type="file"
      accept="image/svg+xml,.svg"
      hidden
      aria-label="SVG with ink"
      @change="bring"
    />
  </div>
</template>

<style scoped>
.ink {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}
.ink .ant-btn {
  min-height: 40px;
  padding-inline: 7px;
  font-size: 13.5px;
}
.on {
  border-color: var(--lapis);
  background: var(--lapis-tint);
  color: var(--lapis);
}
.gap {
  width: 6px;
}
.dot {
  width: 40px;
  height: 40px;
  display: grid;
  place-items: center;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  cursor: pointer;
}
.dot.on {
  border: 2px solid var(--lapis);
}
.dot i {
  width: 20px;
  height: 20px;
  border-radius: 50%;
}
.dot i.wide {
  border-radius: 4px;
  background: var(--ink);
}
</style>
