<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import AppHeader from './shared/AppHeader.vue'
import CameraKeeper from './kit/CameraKeeper.vue'
import SentenceBar from './shared/SentenceBar.vue'
import { theme } from './shared/theme'

const route = useRoute()
const bare = computed(() => route.meta.bare === true)
</script>

<template>
  <ConfigProvider :theme="theme">
    <RouterView v-if="bare" />
    <template v-else>
      <AppHeader />
      <SentenceBar />
      <CameraKeeper v-if="route.name" />
      <RouterView />
    </template>
  </ConfigProvider>
</template>
