<script setup lang="ts">
import { ref } from 'vue'
import { api, answer } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import { useSentences } from '@/shared/sentences'

const props = defineProps<{ deviceId: string }>()
const sentences = useSentences()
const lies = ref('sheet')
const THINGS = [
  { value: 'sheet', label: 'the sheet' },
  { value: 'card', label: 'the set-up card' },
  { value: 'nothing', label: 'nothing' },
]

function lay(thing: string) {
  lies.value = thing
  void sentences.attempt(() =>
    answer(
      api.PUT('/api/kit/devices/{device_id}/lies', {
        params: { path: { device_id: props.deviceId } },
        body: { thing: thing as 'sheet' },
      }),
    ),
  )
}
</script>

<template>
  <ChoiceList small label="Under the simulated camera" :value="lies" :options="THINGS" @change="lay" />
</template>
