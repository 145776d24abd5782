<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { SquareUpView } from '@/api/client'
import { useOutgoing } from '@/shared/outgoing'
import VerdictChip from '@/shared/VerdictChip.vue'

const outgoing = useOutgoing()
const props = defineProps<{ view: SquareUpView }>()
const emit = defineEmits<{
  flip: []
  turn: [quarters: number]
  board: [fedBy: 'nothing' | 'call' | 'window']
}>()

const proof = computed(() => props.view.agreement)
const KINDS = {
  agrees: 'holds',
  reversed: 'wrong',
  differs: 'look',
  turned: 'look',
  'cannot tell': 'unknown',
} as const
const WORDS = {
  agrees: 'Right way round',
  reversed: 'Reversed',
  differs: 'Check the rig',
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
        <VerdictChip v-if="line.who.startsWith('You')" kind="unknown">{{
          line.path.reads_true ? 'Not mirrored' : 'Mirrored for you'
        }}</VerdictChip>
        <VerdictChip v-else :kind="line.path.reads_true ? 'holds' : 'wrong'">{{
          line.path.reads_true ? 'Reads true' : 'Reads reversed'
        }}</VerdictChip>
      </div>
      <p class="soft">
        {{ line.path.count === 1 ? '1 reflection' : `${line.path.count} reflections` }}: {{ stages(line) }}
      </p>
      <p v-if="line.mend && !line.path.reads_true" class="mend">
        {{ line.mend }}
        <Button v-if="line.press === 'chain'" size="small" @click="emit('flip')">Flip it</Button>
        <Button v-if="line.press === 'board'" size="small" @click="boardWindow">Open it for the board</Button>
      </p>
      <Button
        v-else-if="line.who.startsWith('Board') && byWindow"
        size="small"
        type="link"
        @click="emit('board', 'call')"
        >Board shows my screen</Button
      >
    </div>
    <Button
      size="small"
      type="link"
      @click="emit('board', view.board_fed_by === 'nothing' ? 'call' : 'nothing')"
      >{{ view.board_fed_by === 'nothing' ? 'I have a board in the room' : 'No board in the room' }}</Button
    >
    <div v-if="proof" class="line">
      <div class="who">
        <b>The print</b>
        <VerdictChip :kind="KINDS[proof.kind]">{{ WORDS[proof.kind] }}</VerdictChip>
      </div>
      <p class="soft">
        {{ proof.says }}
        <RouterLink v-if="proof.kind === 'differs'" to="/kit">Open Kit</RouterLink>
        <Button v-if="proof.press === 'mirror'" size="small" @click="emit('flip')">Flip it</Button>
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
