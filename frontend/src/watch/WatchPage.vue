<script setup lang="ts">
import { Button, ConfigProvider, Input } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import EnterCode from '@/shared/EnterCode.vue'
import { withoutRtc } from '@/shared/rtc'
import { theme } from '@/shared/theme'
import { enter, token, Watching, type WatchState } from './whep'

const video = ref<HTMLVideoElement>()
const state = ref<WatchState>('code')
const sentence = ref<string | null>(null)
const unable = withoutRtc() // told before a code is spent
const code = ref('')
const name = ref('Board')
const silent = ref(true)
const moment = computed(() => {
  if (state.value === 'asking') return 'One moment'
  return sentence.value ?? 'One moment: the picture comes back by itself'
})
let watching: Watching | null = null

async function come() {
  sentence.value = null
  try {
    await enter(code.value, name.value.trim() || 'Board')
    history.replaceState(null, '', location.pathname)
    watch()
  } catch (error) {
    sentence.value = (error as Error).message
  }
}
function watch() {
  watching ??= new Watching(video.value!, (now, said) => {
    state.value = now
    sentence.value = said ?? null
  })
  void watching.start()
}
const whole = () => void document.documentElement.requestFullscreen().catch(() => {})

onMounted(() => {
  code.value = location.hash.slice(1)
  if (token.get() && !code.value && !unable) watch()
})
onBeforeUnmount(() => watching?.stop())
</script>

<template>
  <ConfigProvider :theme="theme">
    <main>
      <video
        v-show="state !== 'code'"
        ref="video"
        autoplay
        playsinline
        :muted="silent"
        aria-label="The lesson’s picture"
        @dblclick="whole"
      />
      <p v-if="unable" class="moment" role="status">{{ unable }}</p>
      <p v-else-if="state === 'asking' || state === 'waiting'" class="moment" role="status">
        {{ moment }}
      </p>
      <div v-if="state !== 'code'" class="tools">
        <Button @click="whole">Full screen</Button>
        <Button @click="silent = !silent">{{ silent ? 'Turn the sound on' : 'Turn the sound off' }}</Button>
      </div>
      <EnterCode
        v-if="state === 'code' && !unable"
        v-model="code"
        class="enter"
        title="Watch the lesson on this screen"
        press="Watch"
        :refused="sentence"
        @come="come"
      >
        <template #more>
          <label>What this screen is called <Input v-model:value="name" :maxlength="60" /></label>
        </template>
        This screen sees what goes out of Cartouche, and can do nothing else. It stays silent.
      </EnterCode>
    </main>
  </ConfigProvider>
</template>

<style scoped>
main {
  flex: 1;
  display: grid;
  place-items: center;
  background: var(--paper);
  position: relative;
  overflow: hidden;
}
video {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.moment {
  position: absolute;
  padding: 14px 22px;
  border-radius: 12px;
  background: var(--sheet);
}
.tools {
  position: absolute;
  right: 12px;
  bottom: 12px;
  display: flex;
  gap: 8px;
  opacity: 0;
}
main:hover .tools,
.tools:focus-within {
  opacity: 1;
}
.enter {
  width: min(440px, 94vw);
}
</style>
