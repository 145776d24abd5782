import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, answer, type LiveView, type Schemas } from '@/api/client'
import { useFetched, versionsOf } from './fetched'
import { reconnecting, socketUrl } from './reconnecting'

/** What the server says is going on, pushed over one socket; and what of the kit and lesson follows from it. */
export const useLive = defineStore('live', () => {
  const state = shallowRef<LiveView | null>(null)
  const connected = ref(false)
  const starts = ref(0) // connections so far: what an earlier one told says nothing of the server that answers now
  const kit = shallowRef<Schemas['KitView'] | null>(null)
  const teach = shallowRef<Schemas['TeachView'] | null>(null)

  /** null until the server has told how things stand. */
  function signature(...topics: string[]): string | null {
    const versions = connected.value ? versionsOf(state.value?.versions, ...topics) : null
    return versions === null ? null : `${starts.value}:${versions}`
  }
  const kitLook = useFetched(
    () => signature('kit', 'lesson'),
    state,
    () => answer(api.GET('/api/kit')),
    (next) => (kit.value = next),
  )
  const teachLook = useFetched(
    () => signature('lesson', 'plates', 'kit', 'chain:'),
    state,
    () => answer(api.GET('/api/teach')),
    (next) => (teach.value = next),
  )
  async function refresh() {
    await Promise.all([kitLook.again(), teachLook.again()])
  }

  function start() {
    reconnecting(
      () => socketUrl('/api/live'),
      () => {}, // connected is who has heard how things stand
      (data) => {
        state.value = JSON.parse(data as string) as LiveView
        connected.value = true
      },
      () => {
        connected.value = false
        starts.value++
      },
    )
  }

  const feeds = computed(() => new Map((state.value?.feeds ?? []).map((feed) => [feed.id, feed])))
  /** The open microphone's name; null while all are closed. */
  const microphone = computed(() => {
    const open = state.value?.microphone
    if (!open) return null
    return open.label || (kit.value?.devices.find((device) => device.id === open.id)?.name ?? 'A phone')
  })
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
  const away = computed(() => onPlate.value.filter((device) => feeds.value.get(device.id)?.away))
  const learnersReadTrue = computed(
    () => state.value?.audiences.find((a) => !a.is_teacher)?.path?.reads_true ?? null,
  )

  return { state, connected, kit, teach, feeds, away, onPlate, microphone, pageDevice, faceDevice, learnersReadTrue, signature, start, refresh } // prettier-ignore
})
