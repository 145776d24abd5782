<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import AppHeader from './shared/AppHeader.vue'
import CameraKeeper from './kit/CameraKeeper.vue'
import OutgoingLost from './shared/OutgoingLost.vue'
import SentenceBar from './shared/SentenceBar.vue'
import { theme } from './shared/theme'

const route = useRoute()
const known = computed(() => route.matched.length > 0) // before that nobody knows whether it is the outgoing window
const bare = computed(() => route.meta.bare === true)
</script>

<template>
  <ConfigProvider :theme="theme">
    <RouterView v-if="bare" />
    <template v-else-if="known">
      <AppHeader />
      <SentenceBar />
      <OutgoingLost />
      <CameraKeeper />
      <RouterView />
    </template>
  </ConfigProvider>
</template>
