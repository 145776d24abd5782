<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { SquareUpView } from '@/api/client'
import { useOutgoing } from '@/shared/outgoing'
import VerdictChip from '@/shared/VerdictChip.vue'

const outgoing = useOutgoing()
const props = defineProps<{ view: SquareUpView }>()
const emit = defineEmits<{ flip: []; turn: [quarters: number]; board: [fedBy: 'call' | 'window'] }>()

const proof = computed(() => props.view.agreement)
const KINDS = { agrees: 'holds', differs: 'wrong', turned: 'look', 'cannot tell': 'unknown' } as const
const WORDS = {
  agrees: 'The page agrees',
  differs: 'The page disagrees',
  turned: 'Not upright',
  'cannot tell': 'Cannot tell',
} as const
const byWindow = computed(() => props.view.board_fed_by === 'window')

function stages(line: SquareUpView['paths'][number]): string {
  const counted = line.path.stages.filter((stage) => stage.count > 0).map((stage) => stage.words)
  return counted.length ? counted.join(' + ') : 'nothing flips it'
}
function boardWindow() {
  emit('board', 'window')
  outgoing.open()
}
</script>

<template>
  <section class="paths" aria-label="The light path">
    <h2>The right way round</h2>
    <div v-for="line in view.paths" :key="line.who" class="line">
      <div class="who">
        <b>{{ line.who }}</b>
        <VerdictChip :kind="line.path.reads_true ? 'holds' : line.press ? 'wrong' : 'look'">{{
          line.path.reads_true ? 'Reads true' : 'Reads reversed'
        }}</VerdictChip>
      </div>
      <p class="soft">
        {{ line.path.count === 1 ? '1 reflection' : `${line.path.count} reflections` }}: {{ stages(line) }}
      </p>
      <p v-if="line.mend && !line.path.reads_true" class="mend">
        {{ line.mend }}
        <Button v-if="line.press === 'chain'" size="small" @click="emit('flip')">Flip it here</Button>
        <Button v-if="line.press === 'board'" size="small" @click="boardWindow"
          >Mend for the board only</Button
        >
      </p>
      <Button
        v-else-if="line.who.startsWith('Board') && byWindow"
        size="small"
        type="link"
        @click="emit('board', 'call')"
        >It is fed from my screen after all</Button
      >
    </div>
    <div v-if="proof" class="line">
      <div class="who">
        <b>The page itself</b>
        <VerdictChip :kind="KINDS[proof.kind]">{{ WORDS[proof.kind] }}</VerdictChip>
      </div>
      <p class="soft">
        {{ proof.says }}
        <Button v-if="proof.press === 'mirror'" size="small" @click="emit('flip')">Flip it here</Button>
        <Button v-if="proof.press === 'turn'" size="small" @click="emit('turn', proof.quarters)"
          >Turn it</Button
        >
      </p>
    </div>
  </section>
</template>

<style scoped>
.paths {
  margin-top: 10px;
  display: grid;
  gap: 3px;
  font-size: 13.5px;
}
h2 {
  font-size: 15px;
}
.line {
  border-top: 1px solid var(--line);
  padding-top: 4px;
}
.who {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
}
.mend {
  color: var(--ink);
}
</style>
