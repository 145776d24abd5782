import { computed, onScopeDispose, reactive, ref, shallowRef } from 'vue'
import { Refused, enter, leave, report, sentenceOf, token, type GuestState, type Report } from './client'
import * as lens from '@/shared/lens'
import { Awake, battery } from './phone'
import { send, type Sender } from './sender'

const AGAIN_MS = 1000
const NOT_ARRIVING_MS = 6000 // sent for so long and not seen there: begin anew
const MAX_IN_VAIN = 2 // connections by WebRTC that bring no picture, before the socket is taken
const KEPT_LENS = 'cartouche-lens'
const KEPT_WAY = 'cartouche-upright'

export type Phase = Report['phase']

/** This device's part in the lesson: its camera, the way to the teacher's computer, and what both tell each other. */
export function useSession() {
  const known = ref(token.get() !== null)
  const refused = ref<string | null>(null)
  const phase = ref<Phase>('asking')
  const answers = ref(false)
  const state = shallowRef<GuestState | null>(null)
  const stream = shallowRef<MediaStream | null>(null)
  const lenses = ref<lens.LensInfo[]>([])
  const upright = ref(localStorage.getItem(KEPT_WAY) === 'yes')
  const controls = reactive<ReturnType<typeof lens.controlsOf>>({
    spans: {},
    settings: {},
    canRefocus: false,
  })
  const power = ref<Awaited<ReturnType<typeof battery>>>(null)
  const microphone = ref<'none' | 'off' | 'on'>('off')
  const awake = reactive(new Awake())
  let sender: Sender | null = null
  let sound: MediaStreamTrack | null = null
  let ended = false
  let turn = 0
  let done = 0
  let refocused = 0
  let arrivedMs = performance.now()
  let inVain = 0
  let size: { width: number; height: number } | null = null

  const track = () => stream.value?.getVideoTracks()[0] ?? null
  const lensId = computed(() => {
    void phase.value
    return stream.value?.getVideoTracks()[0]?.getSettings().deviceId ?? null
  })

  onScopeDispose(stop)

  function stop() {
    ended = true
    turn++
    hangUp()
    letGo()
    awake.release()
  }
  function hangUp() {
    sender?.close()
    sender = null
  }
  function letGo() {
    stream.value?.getTracks().forEach((one) => one.stop())
    stream.value = null
  }

  /** Open the camera and send it. A later call wins over an earlier one. */
  async function start(wantedLens = localStorage.getItem(KEPT_LENS)): Promise<void> {
    const mine = ++turn
    hangUp()
    letGo()
    if (!stream.value) phase.value = 'asking'
    try {
      const opened = await open(wantedLens)
      if (mine !== turn) return opened.getTracks().forEach((one) => one.stop())
      stream.value = opened
      const picture = opened.getVideoTracks()[0]!
      picture.onended = () => void (mine === turn && !document.hidden && start())
      lenses.value = await lens.lenses()
      localStorage.setItem(KEPT_LENS, picture.getSettings().deviceId ?? '')
      Object.assign(controls, lens.controlsOf(picture))
      phase.value = 'sending'
      void awake.hold()
      await connect(mine)
    } catch (error) {
      if (mine !== turn) return
      if (error instanceof Refused) return forget(error.message)
      phase.value = lens.troubleOf(error)
    }
  }

  async function open(wantedLens: string | null): Promise<MediaStream> {
    try {
      return await navigator.mediaDevices.getUserMedia(lens.wanted(wantedLens || null, upright.value, size))
    } catch (error) {
      if (!wantedLens || lens.troubleOf(error) !== 'none') throw error
      return navigator.mediaDevices.getUserMedia(lens.wanted(null, upright.value, size)) // that lens has another id today
    }
  }

  async function connect(mine = turn): Promise<void> {
    hangUp()
    if (!stream.value) return
    arrivedMs = performance.now()
    const together = new MediaStream([...stream.value.getVideoTracks(), ...(sound ? [sound] : [])])
    const prefers = state.value?.serves === 'face' ? 'smooth' : 'sharp'
    const made = await send(together, prefers, inVain < MAX_IN_VAIN)
    if (mine !== turn || ended) return made.close()
    sender = made
    made.rest(state.value !== null && !state.value.wanted)
  }

  async function tell(): Promise<Report> {
    power.value = await battery().catch(() => null)
    const picture = track()
    if (picture) Object.assign(controls, lens.controlsOf(picture))
    const can = (picture?.getCapabilities?.() ?? {}) as {
      width?: { max?: number }
      height?: { max?: number }
    }
    return {
      phase: document.hidden && phase.value === 'sending' ? 'resting' : phase.value,
      transport: sender?.transport ?? null,
      battery: power.value,
      lenses: lenses.value,
      lens: picture?.getSettings().deviceId ?? null,
      spans: controls.spans,
      settings: controls.settings,
      can_refocus: controls.canRefocus,
      microphone: microphone.value,
      awake: awake.state,
      max_width: can.width?.max ?? null,
      max_height: can.height?.max ?? null,
      path_ms: (await sender?.pathMs()) ?? null,
      done,
    }
  }

  /** Tell and listen, for as long as the page is open; whatever breaks on the way is tried again. */
  async function talk(): Promise<void> {
    while (!ended && known.value) {
      try {
        const next = await report(await tell())
        const cameBack = !answers.value
        answers.value = true
        await hear(next, cameBack)
      } catch (error) {
        answers.value = false
        if (error instanceof Refused) return forget(error.message)
        await new Promise((later) => setTimeout(later, AGAIN_MS))
      }
    }
  }

  async function hear(next: GuestState, cameBack: boolean) {
    const before = state.value
    state.value = next
    if (next.arrives) inVain = 0
    if (next.arrives || !next.wanted || phase.value !== 'sending') arrivedMs = performance.now()
    if (next.serves !== before?.serves) sender?.prefer(next.serves === 'face' ? 'smooth' : 'sharp')
    if (next.wanted !== before?.wanted) sender?.rest(!next.wanted)
    if (next.orders.number > done || next.orders.number < done) await obey(next.orders)
    await resize(next)
    const anew = next.run !== before?.run && before !== null
    const late = performance.now() - arrivedMs > NOT_ARRIVING_MS
    const dead = sender?.broken() ?? false
    if (phase.value === 'sending' && !document.hidden && (anew || late || (dead && (cameBack || late)))) {
      arrivedMs = performance.now()
      if (late) inVain++
      if (track()?.readyState === 'live') void connect()
      else void start()
    }
  }

  async function obey(orders: GuestState['orders']) {
    done = orders.number
    const picture = track()
    if (orders.lens && orders.lens !== picture?.getSettings().deviceId) return start(orders.lens)
    if (picture) await lens.set(picture, orders.settings)
    if (picture && orders.refocus > refocused) await lens.refocus(picture)
    refocused = orders.refocus
    if (orders.microphone !== null && orders.microphone !== (microphone.value === 'on')) {
      await listen(orders.microphone ?? false)
    }
  }

  async function resize(next: GuestState) {
    if (!next.width || !next.height || (size?.width === next.width && size.height === next.height)) return
    size = { width: next.width, height: next.height }
    const asked = lens.wanted(null, upright.value, size).video as MediaTrackConstraints
    await track()
      ?.applyConstraints({ width: asked.width, height: asked.height })
      .catch(() => {})
  }

  async function listen(on: boolean) {
    sound?.stop()
    sound = null
    microphone.value = 'off'
    if (on) {
      try {
        sound = (await navigator.mediaDevices.getUserMedia({ audio: true })).getAudioTracks()[0] ?? null
        microphone.value = sound ? 'on' : 'none'
      } catch (error) {
        microphone.value = lens.troubleOf(error) === 'none' ? 'none' : 'off'
      }
    }
    await connect()
  }

  async function set(settings: NonNullable<Report['settings']>) {
    const picture = track()
    if (!picture) return
    await lens.set(picture, settings)
    Object.assign(controls, lens.controlsOf(picture))
  }
  async function refocus() {
    const picture = track()
    if (picture) await lens.refocus(picture)
  }
  async function choose(id: string) {
    await start(id)
  }
  async function hold(way: boolean) {
    upright.value = way
    localStorage.setItem(KEPT_WAY, way ? 'yes' : 'no')
    await start()
  }

  /** A picture through each lens: most phones open only one at a time, so each in its turn. */
  async function lookThroughEach(): Promise<Map<string, string>> {
    const pictures = new Map<string, string>()
    const before = lensId.value
    const mine = ++turn
    hangUp()
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
    if (mine === turn) await start(before)
    return pictures
  }

  function forget(sentence: string) {
    refused.value = sentence
    known.value = false
    token.forget()
    hangUp()
    letGo()
    awake.release()
  }

  async function come(code: string): Promise<void> {
    refused.value = null
    try {
      await enter(code)
      known.value = true
      begin()
    } catch (error) {
      refused.value = sentenceOf(error)
    }
  }
  async function go() {
    await leave().catch(() => {})
    forget('You have left. To come back, ask the teacher for a new code.')
  }

  function begin() {
    void start()
    void talk()
  }
  function seen() {
    if (document.hidden || !known.value || ended) return
    void awake.hold()
    const picture = track()
    if (!picture || picture.readyState !== 'live' || picture.muted) void start()
    else if (sender?.broken()) void connect()
  }
  document.addEventListener('visibilitychange', seen)
  onScopeDispose(() => document.removeEventListener('visibilitychange', seen))
  if (known.value) begin()

  return {
    known,
    refused,
    phase,
    answers,
    state,
    stream,
    lenses,
    lensId,
    upright,
    controls,
    power,
    microphone,
    awake,
    start,
    come,
    go,
    set,
    refocus,
    choose,
    hold,
    listen,
    lookThroughEach,
  }
}
