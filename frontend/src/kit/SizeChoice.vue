<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { WISHES, measured } from './sizes'

const props = defineProps<{ deviceId: string; sizes: Schemas['SizesView'] }>()
const sentences = useSentences()

async function choose(wish: Schemas['SizeWish']['wish']) {
  const path = { device_id: props.deviceId }
  await sentences.attempt(() =>
    answer(api.PUT('/api/kit/devices/{device_id}/size', { params: { path }, body: { wish } })),
  )
}
</script>

<template>
  <div class="sizes">
    <div class="row">
      <span>Sharp or quick</span>
      <Segmented
        v-radios
        :value="sizes.wish"
        :options="WISHES"
        aria-label="Sharp or quick"
        @change="(wish) => choose(wish as 'auto')"
      />
    </div>
    <ul class="soft">
      <li
        v-for="one in sizes.offered"
        :key="one.width"
        :class="{ chosen: one.width === sizes.width && one.height === sizes.height }"
      >
        <span class="num">{{ one.width }}×{{ one.height }}</span> <span>{{ measured(one) }}</span>
      </li>
    </ul>
    <p v-if="sizes.why" class="soft small">{{ sizes.width }}×{{ sizes.height }}: {{ sizes.why }}.</p>
  </div>
</template>

<style scoped>
.sizes {
  display: grid;
  gap: 6px;
  font-size: 13.5px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  padding: 2px 8px;
  border-radius: 6px;
}
.chosen {
  background: var(--lapis-tint);
  color: var(--lapis);
  font-weight: 600;
}
.small {
  font-size: 13px;
}
</style>
