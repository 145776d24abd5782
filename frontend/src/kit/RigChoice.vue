<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import RigPicture from './RigPicture.vue'

type Rig = Schemas['RigView']
const props = defineProps<{ rig: Rig['id']; rigs: Rig[] }>()
defineEmits<{ change: [rig: Rig['id']] }>()
const chosen = computed(() => props.rigs.find((one) => one.id === props.rig))
</script>

<template>
  <div class="rig">
    <RigPicture :rig="rig" />
    <div>
      <ChoiceList
        label="How it is held"
        :value="rig"
        :options="rigs.map((one) => ({ value: one.id, label: one.name }))"
        @change="(value) => $emit('change', value as Rig['id'])"
      />
      <p class="soft price">{{ chosen?.price }}</p>
    </div>
  </div>
</template>

<style scoped>
.rig {
  display: flex;
  gap: 12px;
  align-items: flex-start;
}
.rig > div {
  flex: 1;
  min-width: 0;
}
.price {
  font-size: 13px;
  margin-top: 4px;
}
</style>
