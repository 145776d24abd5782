<script setup lang="ts">
import { marked } from 'marked'
import manual from '../../../docs/manual.md?raw'

/** The manual as it stands in docs/, shipped with the application. */
const text = marked.parse(manual, { async: false })
</script>

<template>
  <!-- eslint-disable-next-line vue/no-v-html -- our own file, built in -->
  <main class="screen manual" tabindex="-1"><article class="card" v-html="text" /></main>
</template>

<style scoped>
.manual {
  overflow: auto;
}
article {
  max-width: 76ch;
  margin: 0 auto;
  padding: 26px 34px;
  font-size: 16px;
  line-height: 1.5;
}
article :deep(h2) {
  margin-top: 22px;
}
article :deep(li) {
  margin: 5px 0;
}
</style>
