<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { useTools } from './tools'

/** The step that the lesson is at with its note, and the one that comes. */
defineEmits<{ edit: [] }>()
const tools = useTools()
const steps = computed(() => tools.view?.steps ?? [])
const at = computed(() => steps.value.find(({ step }) => step.id === tools.view?.at) ?? null)
const next = computed(() => steps.value.find(({ step }) => step.id === tools.view?.next) ?? null)
const number = computed(() => steps.value.findIndex(({ step }) => step.id === tools.view?.at) + 1)
</script>

<template>
  <section class="card steps" aria-label="Steps of the lesson">
    <template v-if="steps.length">
      <p v-if="at" class="at">
        <b>{{ number }} of {{ steps.length }} · {{ at.step.name }}</b>
        <span v-if="at.step.note" class="note">{{ at.step.note }}</span>
      </p>
      <p v-else class="soft">
        {{ steps.length === 1 ? 'One step is' : `${steps.length} steps are` }} prepared; none is on yet.
      </p>
      <VerdictChip v-if="next?.lacks" kind="look" role="status"
        >{{ next.step.name }}: {{ next.lacks }}</VerdictChip
      >
      <div class="go">
        <Button :disabled="number <= 1" @click="tools.act('back')"
          >Back <kbd>{{ tools.keyOf('back') }}</kbd></Button
        >
        <Button :disabled="!next" type="primary" ghost class="next" @click="tools.act('forward')"
          ><span class="name">{{ next ? `Next: ${next.step.name}` : 'The last step' }}</span>
          <kbd>{{ tools.keyOf('forward') }}</kbd></Button
        >
        <Button @click="$emit('edit')">Edit</Button>
      </div>
    </template>
    <p v-else class="none">
      <span class="soft">Steps prepare the moments of a lesson, one key apart.</span>
      <Button @click="$emit('edit')">Make steps</Button>
    </p>
  </section>
</template>

<style scoped>
.steps {
  padding: 10px 12px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}
.at {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
}
.note {
  font-size: 17px;
  line-height: 1.35;
  white-space: pre-line;
}
.go {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.go .ant-btn {
  min-height: 40px;
  padding-inline: 9px;
}
.next {
  flex: 1 0 100%;
  order: -1;
  min-width: 0;
  display: flex;
  gap: 6px;
  justify-content: space-between;
  align-items: center;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
}
.none {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
  font-size: 13.5px;
}
</style>
