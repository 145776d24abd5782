<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import type { LensInfo } from '@/shared/lens'

const props = defineProps<{
  lenses: LensInfo[]
  current: string | null
  look: () => Promise<Map<string, string>>
}>()
const emit = defineEmits<{ choose: [id: string] }>()
const pictures = ref<Map<string, string> | null>(null)
const looking = ref(false)

async function open() {
  looking.value = true
  pictures.value = await props.look()
  looking.value = false
}
function choose(id: string) {
  pictures.value = null
  if (id !== props.current) emit('choose', id)
}
const word = (one: LensInfo, index: number) =>
  one.facing === 'front' ? 'Towards you' : one.facing === 'rear' ? `Rear ${index + 1}` : `Lens ${index + 1}`
</script>

<template>
  <Button v-if="lenses.length > 1 && !pictures" size="large" :loading="looking" @click="open"
    >Another lens</Button
  >
  <ul v-if="pictures" aria-label="Choose a lens by its picture">
    <li v-for="(one, index) in lenses" :key="one.id">
      <button type="button" :aria-pressed="one.id === current" @click="choose(one.id)">
        <img v-if="pictures.get(one.id)" :src="pictures.get(one.id)" alt="" />
        <span v-else class="none">No picture</span>
        {{ word(one, index) }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
  gap: 10px;
  grid-column: 1 / -1;
}
button {
  width: 100%;
  border: 2px solid var(--line);
  border-radius: 12px;
  background: var(--sheet);
  padding: 6px 6px 10px;
  font: 600 15px var(--type);
  color: var(--ink);
}
button[aria-pressed='true'] {
  border-color: var(--lapis);
}
img,
.none {
  display: grid;
  place-items: center;
  width: 100%;
  aspect-ratio: 4/3;
  object-fit: cover;
  border-radius: 8px;
  margin-bottom: 6px;
  background: #e9e2d3;
}
</style>
