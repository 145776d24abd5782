import { onScopeDispose, reactive, ref, shallowRef } from 'vue'
import * as lens from '@/shared/lens'
import { usePhoneCamera, usePhoneMicrophone } from './camera'
import { NOT_TOLD } from '@/shared/rtcLine'
import { Refused, enter, leave, report, sentenceOf, token, type GuestState, type Report } from './client'
import { Awake, battery } from './phone'
import { send, type Sender } from './sender'

const AGAIN_MS = 1000
const NOT_ARRIVING_MS = 6000 // sent for so long and not seen there: begin anew
const UNABLE_AGAIN_MS = 20_000 // an encoder that another app holds comes free
const MAX_IN_VAIN = 2 // connections by WebRTC that bring no picture, before the socket is taken

export type Phase = Report['phase']

/** This device's part in the lesson: its camera, the way to the teacher's computer, and what both tell each other. */
export function useSession() {
  const known = ref(token.get() !== null)
  const refused = ref<string | null>(null)
  const phase = ref<Phase>('asking')
  const answers = ref(false)
  const state = shallowRef<GuestState | null>(null)
  const power = ref<Awaited<ReturnType<typeof battery>>>(null)
  const awake = reactive(new Awake())
  const camera = usePhoneCamera(() => !document.hidden && void start())
  const microphone = usePhoneMicrophone()
  let sender: Sender | null = null
  let ended = false
  let turn = 0
  let done = 0
  let refocused = 0
  let arrivedMs = performance.now()
  let inVain = 0
  let unableMs = 0

  onScopeDispose(() => {
    ended = true
    release()
  })
  function release() {
    turn++
    hangUp()
    camera.letGo()
    awake.release()
  }
  function hangUp() {
    sender?.close()
    sender = null
  }

  /** Open the camera and send it. A later call wins over an earlier one. */
  async function start(wantedLens?: string | null): Promise<void> {
    const mine = ++turn
    hangUp()
    phase.value = 'asking'
    try {
      if (!(await camera.open(wantedLens ?? undefined)) || mine !== turn) return
      phase.value = 'sending'
      void awake.hold()
      await connect(mine)
    } catch (error) {
      if (mine !== turn) return
      if (error instanceof Refused) return forget(error.message)
      phase.value = lens.troubleOf(error)
    }
  }

  async function connect(mine = turn): Promise<void> {
    hangUp()
    const pictures = camera.stream.value?.getVideoTracks()
    if (!pictures) return
    arrivedMs = performance.now()
    const together = new MediaStream([...pictures, ...microphone.tracks()])
    const prefers = state.value?.serves === 'face' ? 'smooth' : 'sharp'
    const next = await send(together, prefers, inVain < MAX_IN_VAIN)
    if (mine !== turn || ended) return next.close()
    sender = next
    next.rest(state.value !== null && !state.value.wanted)
    if (state.value) next.limit(state.value.fps)
  }

  async function tell(): Promise<Report> {
    power.value = await battery().catch(() => null)
    camera.refresh()
    return {
      phase: document.hidden && phase.value === 'sending' ? 'resting' : phase.value,
      transport: sender?.transport ?? null,
      battery: power.value,
      lenses: camera.lenses.value,
      lens: camera.lensId.value,
      spans: camera.controls.spans,
      settings: camera.controls.settings,
      can_refocus: camera.controls.canRefocus,
      microphone: microphone.state.value,
      awake: awake.state,
      ...camera.largest(),
      ...((await sender?.line()) ?? NOT_TOLD),
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
    if (next.fps !== before?.fps) sender?.limit(next.fps)
    if (next.orders.number !== done) await obey(next.orders)
    await camera.resize(next)
    againIfUnable()
    againIfLost(next.run !== before?.run && before !== null, cameBack)
  }

  /** A browser that cannot send says so, and tries again by itself. */
  function againIfUnable() {
    if (phase.value === 'sending' && sender?.unable()) {
      hangUp()
      phase.value = 'unable'
      unableMs = performance.now()
    } else if (phase.value === 'unable' && performance.now() - unableMs > UNABLE_AGAIN_MS) void start()
  }

  /** Connect again where the server is another one, nothing arrives any more, or the line broke while it was away. */
  function againIfLost(isNewServer: boolean, cameBack: boolean) {
    if (phase.value !== 'sending' || document.hidden) return
    const late = performance.now() - arrivedMs > NOT_ARRIVING_MS
    const broken = (sender?.broken() ?? false) && cameBack
    if (!isNewServer && !late && !broken) return
    arrivedMs = performance.now()
    if (late) inVain++
    if (camera.track()?.readyState === 'live') void connect()
    else void start()
  }

  async function obey(orders: GuestState['orders']) {
    done = orders.number
    if (orders.leave) return go()
    if (orders.lens && orders.lens !== camera.lensId.value) return start(orders.lens)
    await camera.set(orders.settings ?? {})
    if (orders.refocus > refocused) await camera.refocus()
    refocused = orders.refocus
    if (orders.microphone !== null && orders.microphone !== (microphone.state.value === 'on'))
      await listen(orders.microphone ?? false)
  }

  async function listen(on: boolean) {
    await microphone.listen(on)
    await connect()
  }
  async function hold(way: boolean) {
    camera.hold(way)
    await start()
  }
  async function lookThroughEach(): Promise<Map<string, string>> {
    const before = camera.lensId.value
    const mine = ++turn
    hangUp()
    const pictures = await camera.lookThroughEach()
    if (mine === turn) await start(before)
    return pictures
  }

  function forget(sentence: string) {
    refused.value = sentence
    known.value = false
    token.forget()
    release()
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
    forget('You have left the lesson. To come back, ask the teacher to invite you again.')
  }

  function begin() {
    void start()
    void talk()
  }
  function seen() {
    if (document.hidden || !known.value || ended) return
    void awake.hold()
    const picture = camera.track()
    if (!picture || picture.readyState !== 'live' || picture.muted) void start()
    else if (sender?.broken()) void connect()
  }
  document.addEventListener('visibilitychange', seen)
  onScopeDispose(() => document.removeEventListener('visibilitychange', seen))
  if (known.value) begin()

  const { stream, lenses, lensId, upright, controls, set, refocus } = camera
  return {
    known, refused, phase, answers, state, stream, lenses, lensId, upright, controls, power, awake,
    microphone: microphone.state, start, come, go, set, refocus, choose: start, hold, listen, lookThroughEach,
  } // prettier-ignore
}
