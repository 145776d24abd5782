<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import VerdictChip from '@/shared/VerdictChip.vue'
import type { ActionName } from './actions'
import { reads } from './reads'
import { useTools } from './tools'

/** What matters most just now, in one line at one place, with one press. */
type VerdictKind = 'holds' | 'look' | 'wrong' | 'unknown'
const props = defineProps<{
  troubles: { kind: VerdictKind; says: string; open?: string; opens?: string }[]
}>()
const tools = useTools()

interface Line {
  kind: VerdictKind
  says: string
  press?: { words: string; end: string; key: string; act: ActionName } // a small screen shows their end alone
  open?: string
  opens?: string
}
const line = computed<Line>(() => {
  const held = tools.view?.held
  const press = (words: string, end: string, act: ActionName) => ({ words, end, key: tools.keyOf(act), act })
  const wrong = props.troubles.find((one) => one.kind === 'wrong')
  if (wrong) return wrong
  if (held?.by === 'sheet') {
    const name = tools.view?.sheets.find((one) => one.id === held.sheet_id)?.name ?? 'A sheet'
    return {
      kind: 'look',
      says: `Learners see the sheet “${name}”.`,
      press: press('Back to the', 'page', 'live'),
    }
  }
  if (held) {
    const since = reads(tools.heldS ?? 0, 'up')
    const says = held.asks
      ? `Held for ${since}. Do learners still need it?`
      : held.by === 'page'
        ? `The page left: learners see it as it was (${since}).`
        : `Held for ${since}: learners see the page as it was.`
    return { kind: 'look', says, press: press('Let it go on', '', 'hold') }
  }
  return props.troubles[0] ?? { kind: 'holds', says: 'All is well.' }
})
</script>

<template>
  <div class="line" :role="line.kind === 'wrong' ? 'alert' : 'status'" aria-label="State">
    <VerdictChip :kind="line.kind" :title="line.says">{{ line.says }}</VerdictChip>
    <Button
      v-if="line.press"
      :aria-label="[line.press.words, line.press.end, line.press.key].filter(Boolean).join(' ')"
      @click="tools.act(line.press.act)"
      ><span
        ><span class="words">{{ `${line.press.words} ` }}</span
        ><span class="end">{{ line.press.end }}</span></span
      >
      <kbd>{{ line.press.key }}</kbd></Button
    >
    <RouterLink v-else-if="line.open" :to="line.open">{{ line.opens }}</RouterLink>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
  min-width: 0;
  flex: 0 1 auto;
}
.line :deep(.chip) {
  min-height: 34px;
  font-size: 14.5px;
  min-width: 0;
}
.line :deep(.chip > span:last-child) {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2; /* a small screen has no room for the longest sentence in one */
  overflow: hidden;
  line-height: 1.2;
}
.line .ant-btn {
  flex: none;
  min-height: 40px;
}
@media (max-width: 1200px) {
  .line :deep(.chip) {
    font-size: 13.5px;
  }
  .line .ant-btn {
    padding-inline: 8px;
  }
  .line .words {
    display: none; /* the sentence has their room: the tools beneath say "Let it go on" as well */
  }
  .line .end {
    display: inline-block;
  }
  .line .end::first-letter {
    text-transform: uppercase;
  }
}
</style>
