import { computed, ref, type ComputedRef } from 'vue'
import { api, answer, type Device, type Schemas } from '@/api/client'
import { useCameras } from '@/kit/cameras'
import { controlsOf, refocus, set, type Settings, type Spans } from '@/shared/lens'
import { Commands } from '@/shared/commands'
import { useSentences } from '@/shared/sentences'

type Change = Schemas['ControlChange']
const DARKER = 0.7 // of the exposure time, or so much of the way down where a device has no time to set
const STOP = 1

/** What sets a picture darker by about a stop on this device; null where nothing does or it is at its least. */
export function darker(spans: Spans, settings: Settings): Settings | null {
  const ways = {
    exposureCompensation: (now: number) => now - STOP,
    exposureTime: (now: number) => now * DARKER,
    brightness: (now: number, min: number) => min + (now - min) * DARKER,
  }
  for (const [name, way] of Object.entries(ways)) {
    const span = spans[name]
    const now = settings[name]
    if (span && now !== undefined && now > span.min) return { [name]: Math.max(span.min, way(now, span.min)) }
  }
  return null
}

/** What can be set on a device and how: on a phone by asking it, on a camera of this computer by this tab. */
export function useControls(
  device: ComputedRef<Device | undefined>,
  guest: ComputedRef<Schemas['GuestView'] | undefined>,
) {
  const cameras = useCameras()
  const sentences = useSentences()
  const timesSet = ref(0) // a track says of its settings what they are, never that they have changed
  const own = computed(() => {
    void timesSet.value
    const id = device.value?.id ?? ''
    const sends = cameras.status.get(id)?.phase === 'sending' && device.value?.kind === 'camera'
    const track = sends ? cameras.trackOf(id) : null
    return track ? { track, ...controlsOf(track) } : null
  })
  const here = computed(() => (guest.value?.here ? guest.value : null))
  const spans = computed(() => (here.value ? here.value.spans : (own.value?.spans ?? {})) as Spans)
  const settings = computed(
    () => (here.value ? here.value.settings : (own.value?.settings ?? {})) as Settings,
  )
  const canRefocus = computed(() => here.value?.can_refocus ?? own.value?.canRefocus ?? false)

  const commands = new Commands<unknown>(() => {})
  function asking(change: Partial<Change>) {
    const body = { settings: {}, refocus: false, ...change }
    const path = { device_id: device.value?.id ?? '' }
    return () =>
      sentences.attempt(() => answer(api.PUT('/api/guests/{device_id}/controls', { params: { path }, body })))
  }
  const ask = (change: Partial<Change>) => commands.press(asking(change))
  /** A slider's positions take each other's place while they wait. */
  async function change(wanted: Settings) {
    const drag = `${device.value?.id}:${Object.keys(wanted).join()}`
    if (here.value) return commands.drag(drag, false, asking({ settings: wanted as Change['settings'] }))
    if (!own.value) return
    await set(own.value.track, wanted)
    timesSet.value++
  }
  async function focus() {
    if (here.value) return ask({ refocus: true })
    if (!own.value) return
    await refocus(own.value.track)
    timesSet.value++
  }
  return { spans, settings, canRefocus, ask, change, focus }
}
