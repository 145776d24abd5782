<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, onMounted } from 'vue'
import { useRoute } from 'vue-router'
import KeysHelp from './KeysHelp.vue'
import { useLive } from './live'
import { pathSteps } from './path'

const live = useLive()
const route = useRoute()
const now = useNow({ interval: 5000 })

onMounted(() => live.start()) // the outgoing window has no header: it needs no news
const clock = computed(() => now.value.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' }))
function skip() {
  const main = document.querySelector('main')
  main?.querySelector<HTMLElement>('button, a[href], select, input, [tabindex="0"]')?.focus()
}
const steps = computed(() =>
  pathSteps({
    hasPage: !!live.pageDevice,
    hasFace: !!live.faceDevice,
    anyLost: (live.state?.feeds ?? []).some((feed) => feed.away),
    readsTrue: live.learnersReadTrue,
    goingOut: live.state?.going_out ?? false,
    windows: live.state?.outgoing.windows ?? 0,
    takenBy: live.state?.outgoing.taken_by ?? null,
    microphone: live.microphone,
    ready: live.state?.ready ?? null,
  }),
)
</script>

<template>
  <a class="skip" href="#main" @click.prevent="skip">To the screen</a>
  <header>
    <RouterLink to="/" class="word" :class="{ live: live.state?.going_out }" aria-label="Cartouche, lessons"
      >Cartouche</RouterLink
    >
    <nav v-roving aria-label="The way to the lesson">
      <RouterLink
        v-for="step in steps"
        :key="step.word"
        :to="step.to"
        :class="[step.state, { on: route.name === step.name }]"
        :title="step.says"
      >
        <span class="mark" aria-hidden="true" />{{ step.word }}
      </RouterLink>
    </nav>
    <span v-if="live.teach?.lesson" class="soft lesson"
      >{{ live.teach.lesson.title }} · {{ live.teach.lesson.class_name }}</span
    >
    <span v-if="live.microphone" class="heard" role="status" :title="live.microphone"
      ><span class="mark" aria-hidden="true" />Mic open</span
    >
    <KeysHelp />
    <span class="num clock">{{ clock }}</span>
  </header>
</template>

<style scoped>
header {
  height: 52px;
  flex: none;
  display: flex;
  align-items: center;
  padding: 0 20px;
  gap: 22px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
  white-space: nowrap;
}
a {
  text-decoration: none;
}
.skip {
  position: absolute;
  transform: translateY(-60px);
}
.skip:focus {
  transform: none;
  left: 20px;
  top: 6px;
  z-index: 10;
  padding: 8px 14px;
  background: var(--sheet);
}
.word {
  position: relative;
  padding: 2px 14px 2px 12px;
  border: 2px solid var(--lapis);
  border-radius: 15px;
  color: var(--lapis);
  font-weight: 700;
  font-size: 18px;
}
.word::after {
  content: '';
  position: absolute;
  right: -11px;
  top: 3px;
  bottom: 3px;
  width: 4px;
  border-radius: 2px;
  border: 1px solid var(--lapis);
}
.word.live::after {
  background: var(--lapis);
}
nav {
  display: flex;
  flex: 1;
  gap: 2px;
  margin-left: 4px;
  min-width: 0;
}
nav a {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 40px;
  padding: 0 10px;
  border-radius: 8px;
  font-size: 14.5px;
  color: var(--ink);
}
nav a.on {
  background: var(--lapis-tint);
  color: var(--lapis);
  font-weight: 650;
}
.mark {
  display: none;
  width: 7px;
  height: 7px;
}
.done .mark {
  display: block;
  border-radius: 50%;
  background: var(--malachite);
}
.attention .mark {
  display: block;
  background: var(--ochre);
  transform: rotate(45deg);
}
.heard {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 4px 10px;
  border-radius: 14px;
  background: var(--ink);
  color: var(--sheet);
  font-size: 14px;
}
.heard .mark {
  display: block;
  border-radius: 50%;
  background: var(--sheet);
}
.clock {
  font-size: 17px;
}
@media (max-width: 1180px) {
  header {
    gap: 10px;
    padding: 0 12px;
  }
  .lesson {
    display: none;
  }
  nav a {
    padding: 0 7px;
  }
}
@media (max-width: 900px) {
  header {
    height: auto;
    flex-wrap: wrap;
    justify-content: space-between;
    padding: 6px 12px;
  }
  nav {
    order: 1;
    flex: 0 0 100%;
    flex-wrap: wrap;
    margin: 0;
  }
  nav a {
    min-height: 32px;
  }
}
</style>
