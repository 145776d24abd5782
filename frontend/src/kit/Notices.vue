<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useLive } from '@/shared/live'
import { useHere } from './here'

const emit = defineEmits<{ use: [] }>()
const live = useLive()
const here = useHere()
const named = (ids: string[]) =>
  ids.map((id) => live.kit?.devices.find((one) => one.id === id)?.name).filter((name) => name !== undefined)

/** What of the kit is missing, what cannot be told apart, and what is new here. */
const missing = computed(() => [
  ...named(here.found?.missing ?? []),
  ...(live.kit?.devices ?? [])
    .filter((one) => one.kind === 'guest' && live.kit?.guests[one.id]?.here !== true)
    .map((one) => one.name),
])
const unsure = computed(() => named(here.found?.unsure ?? []))
const found = computed(() => here.found?.new ?? [])
</script>

<template>
  <div v-if="missing.length || unsure.length || found.length || live.kit?.door_trouble" class="notices">
    <p v-if="live.kit?.door_trouble" class="wrong" role="status">{{ live.kit.door_trouble }}</p>
    <p v-if="missing.length" class="look" role="status">Missing here: {{ missing.join(', ') }}</p>
    <p v-if="unsure.length" class="look" role="status">
      {{ unsure.join(', ') }}: more than one camera of this make is known and nothing tells them apart. Remove
      it and add it again.
    </p>
    <p v-if="found.length" class="new" role="status">
      New here: {{ found.map((one) => one.label || 'a camera').join(', ') }}
      <Button size="small" @click="emit('use')">Look at it</Button>
    </p>
  </div>
</template>

<style scoped>
.notices {
  display: grid;
  gap: 6px;
  margin-bottom: 12px;
}
p {
  padding: 6px 14px;
  border-radius: 10px;
  display: flex;
  align-items: center;
  gap: 10px;
}
.look {
  background: var(--ochre-tint);
  color: var(--ochre);
}
.wrong {
  background: var(--carnelian-tint);
  color: var(--carnelian);
}
.new {
  background: var(--lapis-tint);
  color: var(--lapis);
}
</style>
