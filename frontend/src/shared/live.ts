import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, answer, type LiveView, type Schemas } from '@/api/client'
import { reconnecting, socketUrl } from './reconnecting'

export const AWAY = new Set<string>(['asleep', 'black', 'stuck', 'lost'])

/** What the server says is going on, pushed over one socket; and what of the kit and lesson follows from it. */
export const useLive = defineStore('live', () => {
  const state = ref<LiveView | null>(null)
  const connected = ref(false)
  const kit = ref<Schemas['KitView'] | null>(null)
  const teach = ref<Schemas['TeachView'] | null>(null)
  let turn = 0

  async function refresh() {
    const mine = ++turn
    const [nextKit, nextTeach] = await Promise.all([
      answer(api.GET('/api/kit')),
      answer(api.GET('/api/teach')),
    ])
    if (mine !== turn) return
    kit.value = nextKit
    teach.value = nextTeach
  }

  function start() {
    reconnecting(
      () => socketUrl('/api/live'),
      () => {}, // connected is who has heard how things stand
      (data) => {
        connected.value = true
        const next = JSON.parse(data as string) as LiveView
        const changed = next.version !== state.value?.version
        state.value = next
        if (changed) refresh().catch(() => {})
      },
      () => {
        connected.value = false
        if (state.value) state.value = { ...state.value, version: -1 }
      },
    )
  }

  const feeds = computed(() => new Map((state.value?.feeds ?? []).map((feed) => [feed.id, feed])))
  const pageDevice = computed(() => kit.value?.devices.find((device) => device.serves === 'page'))
  const faceDevice = computed(() => kit.value?.devices.find((device) => device.serves === 'face'))
  /** The devices that places of this plate want. */
  const onPlate = computed(() => {
    const plate = teach.value?.plates.find((one) => one.id === state.value?.outgoing.plate_id)
    const wanted = new Set(
      (plate?.places ?? []).map(({ content }) =>
        content.kind === 'feed'
          ? content.feed_id
          : content.kind === 'role'
            ? (content.role === 'page' ? pageDevice : faceDevice).value?.id
            : undefined,
      ),
    )
    return (kit.value?.devices ?? []).filter((device) => wanted.has(device.id))
  })
  /** Those of them that give no usable picture just now. */
  const away = computed(() =>
    onPlate.value.filter((device) => AWAY.has(feeds.value.get(device.id)?.state ?? 'off')),
  )
  const learnersReadTrue = computed(
    () => state.value?.audiences.find((a) => !a.is_teacher)?.path?.reads_true ?? null,
  )

  return {
    state,
    connected,
    kit,
    teach,
    feeds,
    away,
    onPlate,
    pageDevice,
    faceDevice,
    learnersReadTrue,
    start,
    refresh,
  }
})
