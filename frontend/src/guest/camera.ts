import { computed, reactive, ref, shallowRef } from 'vue'
import * as lens from '@/shared/lens'
import type { Report } from './client'

const KEPT_LENS = 'cartouche-lens'
const KEPT_WAY = 'cartouche-upright'

type Size = { width: number; height: number }

/** This device's camera: which lens, held which way, what it can be set to. A later opening wins over an earlier one. */
export function usePhoneCamera(onEnded: () => void) {
  const stream = shallowRef<MediaStream | null>(null)
  const lenses = ref<lens.LensInfo[]>([])
  const lensId = computed(() => stream.value?.getVideoTracks()[0]?.getSettings().deviceId ?? null)
  const upright = ref(localStorage.getItem(KEPT_WAY) === 'yes')
  const controls = reactive<ReturnType<typeof lens.controlsOf>>({
    spans: {},
    settings: {},
    canRefocus: false,
  })
  let size: Size | null = null
  let turn = 0

  const track = () => stream.value?.getVideoTracks()[0] ?? null

  function letGo() {
    turn++
    stream.value?.getTracks().forEach((one) => one.stop())
    stream.value = null
  }
  function refresh() {
    const picture = track()
    if (picture) Object.assign(controls, lens.controlsOf(picture))
  }

  /** Whether it is open now: false where a later call has taken over. Raises what the browser raises. */
  async function open(wantedLens = localStorage.getItem(KEPT_LENS)): Promise<boolean> {
    letGo()
    const mine = turn
    const opened = await ask(wantedLens)
    if (mine !== turn) {
      opened.getTracks().forEach((one) => one.stop())
      return false
    }
    const picture = opened.getVideoTracks()[0]!
    picture.onended = () => mine === turn && onEnded()
    lenses.value = await lens.lenses()
    if (mine !== turn) return false
    stream.value = opened
    localStorage.setItem(KEPT_LENS, picture.getSettings().deviceId ?? '')
    refresh()
    return true
  }
  async function ask(wantedLens: string | null): Promise<MediaStream> {
    try {
      return await navigator.mediaDevices.getUserMedia(lens.wanted(wantedLens || null, upright.value, size))
    } catch (error) {
      if (!wantedLens || lens.troubleOf(error) !== 'none') throw error
      return navigator.mediaDevices.getUserMedia(lens.wanted(null, upright.value, size)) // that lens has another id today
    }
  }

  async function resize(next: { width: number | null; height: number | null }) {
    if (!next.width || !next.height || (size?.width === next.width && size.height === next.height)) return
    size = { width: next.width, height: next.height }
    const asked = lens.wanted(null, upright.value, size).video as MediaTrackConstraints
    await track()
      ?.applyConstraints({ width: asked.width, height: asked.height })
      .catch(() => {})
  }
  async function set(settings: NonNullable<Report['settings']>) {
    const picture = track()
    if (!picture) return
    await lens.set(picture, settings)
    refresh()
  }
  async function refocus() {
    const picture = track()
    if (picture) await lens.refocus(picture)
  }
  function hold(way: boolean) {
    upright.value = way
    localStorage.setItem(KEPT_WAY, way ? 'yes' : 'no')
  }

  /** A picture through each lens: most phones open only one at a time, so each in its turn. */
  async function lookThroughEach(): Promise<Map<string, string>> {
    const pictures = new Map<string, string>()
    letGo()
    for (const one of lenses.value) {
      try {
        const opened = await navigator.mediaDevices.getUserMedia({ video: { deviceId: { exact: one.id } } })
        pictures.set(one.id, await lens.snapshot(opened))
        opened.getTracks().forEach((each) => each.stop())
      } catch {
        // a lens that cannot be opened is shown without a picture
      }
    }
    return pictures
  }

  /** The largest size that the lens offers, px. */
  function largest(): { max_width: number | null; max_height: number | null } {
    const can = (track()?.getCapabilities?.() ?? {}) as {
      width?: { max?: number }
      height?: { max?: number }
    }
    return { max_width: can.width?.max ?? null, max_height: can.height?.max ?? null }
  }

  return { stream, lenses, lensId, upright, controls, track, open, letGo, refresh, resize, set, refocus, hold, lookThroughEach, largest } // prettier-ignore
}

/** This device's microphone: closed until asked for. */
export function usePhoneMicrophone() {
  const state = ref<'none' | 'off' | 'on'>('off')
  let sound: MediaStreamTrack | null = null

  async function listen(on: boolean) {
    sound?.stop()
    sound = null
    state.value = 'off'
    if (!on) return
    try {
      sound = (await navigator.mediaDevices.getUserMedia({ audio: true })).getAudioTracks()[0] ?? null
      state.value = sound ? 'on' : 'none'
    } catch (error) {
      state.value = lens.troubleOf(error) === 'none' ? 'none' : 'off'
    }
  }
  return { state, listen, tracks: () => (sound ? [sound] : []) }
}
