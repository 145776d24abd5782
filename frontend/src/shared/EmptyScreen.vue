<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useRouter } from 'vue-router'

/** What a screen is for while there is nothing to show, and the one thing to press. */
withDefaults(defineProps<{ title: string; says: string; press: string; to?: string }>(), { to: '/kit' })
const router = useRouter()
</script>

<template>
  <section class="card empty" :aria-label="title">
    <div>
      <h1>{{ title }}</h1>
      <p>{{ says }}</p>
    </div>
    <Button type="primary" size="large" @click="router.push(to)">{{ press }}</Button>
  </section>
</template>

<style scoped>
.empty {
  max-width: 980px;
  margin: 24px auto;
  padding: 22px;
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
}
h1 {
  margin-bottom: 6px;
}
</style>
