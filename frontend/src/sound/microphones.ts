import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { reactive, ref, shallowReactive, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { troubleOf } from '@/kit/capture'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { SoundSender } from './sender'

export type SoundTrouble = 'denied' | 'none' | 'busy' | 'gone' | 'unsupported'

export const TROUBLES: Record<SoundTrouble, { sentence: string; press: string }> = {
  denied: {
    sentence:
      'Microphone blocked. Click the icon by the address and allow it, or check this computer’s privacy settings.',
    press: 'Ask again',
  },
  none: {
    sentence: 'The browser finds no microphone on this computer. Plug one in, then look again.',
    press: 'Look again',
  },
  busy: {
    sentence: 'Another program is using this microphone. Close it there, then try again.',
    press: 'Try again',
  },
  gone: { sentence: 'This microphone was unplugged. Plug it in, then look again.', press: 'Look again' },
  unsupported: {
    sentence: 'Microphones do not work at this address. Open Cartouche at the address it printed.',
    press: 'Try again',
  },
}

/** The browser refuses microphones as it refuses cameras. */
const soundTrouble = (error: unknown) => troubleOf(error) as SoundTrouble

export interface MicrophoneHere {
  id: string
  label: string
  group: string
}

/** What the browser does to the sound before it gives it. */
export interface Processing {
  echo: boolean
  noise: boolean
  gain: boolean
}
const PLAIN: Processing = { echo: false, noise: false, gain: false }
const STANDS_MS = 300
const BACK_WITHIN_MS = 120_000
const LISTED = (one: MediaDeviceInfo) =>
  one.kind === 'audioinput' && !['', 'default', 'communications'].includes(one.deviceId)

/** The microphones of this computer that this tab sends. One that is neither open nor looked at is stopped in the browser. */
export const useMicrophones = defineStore('microphones', () => {
  const sentences = useSentences()
  const live = useLive()
  const here = ref<MicrophoneHere[]>([])
  const trouble = ref<SoundTrouble | null>(null)
  const troubles = reactive(new Map<string, SoundTrouble>())
  const sending = shallowReactive(new Map<string, SoundSender>())
  const openId = ref<string | null>(null)
  const lastOpen = ref<string | null>(null) // for push to talk
  const looking = ref(false)
  let line: Promise<Schemas['SoundView'] | undefined> = Promise.resolve(undefined) // one after the other, as they were pressed
  let pressed: { id: string | null; version: number } | null = null // the last press here, until the news are newer
  let lost: { id: string; at: number } | null = null
  const wanted = new Map<string, Processing>() // while open, as declared

  const heardOf = () => live.state?.microphone?.id ?? null
  /** Which one is open: the last press here counts before news that may be older. */
  const openNow = () => (pressed ? pressed.id : (openId.value ?? heardOf()))
  function capture(id?: string, how: Processing = PLAIN): Promise<MediaStream> {
    if (!navigator.mediaDevices) throw new DOMException('no secure context', 'NotSupportedError')
    const audio = {
      echoCancellation: how.echo,
      noiseSuppression: how.noise,
      autoGainControl: how.gain,
      channelCount: 1,
      ...(id ? { deviceId: { exact: id } } : {}),
    }
    return navigator.mediaDevices.getUserMedia({ audio })
  }

  async function look() {
    looking.value = true
    trouble.value = null
    try {
      for (const track of (await capture()).getTracks()) track.stop() // names are told after permission only
      here.value = (await navigator.mediaDevices.enumerateDevices()).filter(LISTED).map((one, at) => ({
        id: one.deviceId,
        label: one.label || `Microphone ${at + 1}`,
        group: one.groupId,
      })) // some have none
      if (!here.value.length) trouble.value = 'none'
      await Promise.all(here.value.filter((one) => !sending.has(one.id)).map((one) => send(one, PLAIN)))
    } catch (error) {
      trouble.value = soundTrouble(error)
    }
  }
  /** Takes the place of what is sent of the same microphone only once it is there: no gap that could be heard. */
  async function send(one: MicrophoneHere, how: Processing) {
    try {
      const sender = new SoundSender(one.id, one.label, await capture(one.id, how), ended)
      if (!looking.value && openId.value !== one.id) return sender.stop()
      const before = sending.get(one.id)
      sending.set(one.id, sender)
      troubles.delete(one.id)
      await sender.start()
      before?.stop()
    } catch (error) {
      troubles.set(one.id, soundTrouble(error))
    }
  }
  function ended(sender: SoundSender) {
    if (sending.get(sender.id) !== sender) return // stopped here, or another took its place
    sending.delete(sender.id)
    troubles.set(sender.id, 'gone')
    if (openId.value !== sender.id) return
    openId.value = null
    lost = { id: sender.id, at: Date.now() }
    sentences.say(
      `“${sender.label}” was unplugged: nobody hears you. Plug it in, or open another under Sound.`,
    )
  }
  /** The one that was open and pulled out is open again once it is back, unless another was opened meanwhile. */
  async function returned() {
    if (looking.value) await look()
    const back = lost
    if (!back || openId.value || Date.now() - back.at > BACK_WITHIN_MS) return
    const found = (await navigator.mediaDevices.enumerateDevices()).find(
      (one) => LISTED(one) && one.deviceId === back.id,
    )
    if (!found) return
    lost = null
    here.value = here.value.some((one) => one.id === found.deviceId)
      ? here.value
      : [...here.value, { id: found.deviceId, label: found.label, group: found.groupId }]
    if (await open(found.deviceId)) sentences.say(`“${found.label}” is back and open again.`)
  }
  useEventListener(navigator.mediaDevices, 'devicechange', () => void returned())
  function leave() {
    looking.value = false
    for (const [id, sender] of sending) if (id !== openId.value) stop(id, sender)
  }
  function stop(id: string, sender: SoundSender) {
    sending.delete(id)
    sender.stop()
  }

  /** Opens this one and closes all others; null closes all. What is closed is stopped here first, whatever the server says. */
  async function open(id: string | null, beside = false) {
    const mine = { id, version: Infinity }
    pressed = mine
    try {
      const done = await opened(id, beside)
      mine.version = done?.version ?? -1 // refused: the news are right
      return done
    } finally {
      agree()
    }
  }
  function agree() {
    if (pressed && (live.state?.versions.sound ?? 0) >= pressed.version) pressed = null
  }
  async function opened(id: string | null, beside: boolean) {
    const one = here.value.find((known) => known.id === id)
    openId.value = one ? one.id : beside ? openId.value : null
    lost = null
    if (id) lastOpen.value = id
    if (!looking.value) for (const [other, sender] of sending) if (other !== id) stop(other, sender)
    if (one) await process(one)
    if (one && openId.value !== one.id) return undefined // closed again meanwhile
    line = line.then(() =>
      sentences.attempt(() => answer(api.PUT('/api/sound/open', { body: { id, beside } }))),
    )
    const done = await line
    if (!done && one) openId.value = null
    return done
  }
  /** As the teacher wants it while it is open; where it is not sent yet, or sent otherwise. */
  async function process(one: MicrophoneHere, how?: Processing) {
    if (how) wanted.set(one.id, how)
    const asked = wanted.get(one.id) ?? { echo: true, noise: false, gain: false }
    const now = sending.get(one.id)?.processing
    if (!now || (['echo', 'noise', 'gain'] as const).some((key) => now[key] !== asked[key]))
      await send(one, asked)
  }
  function declare(kit: Schemas['SoundKit']) {
    for (const one of kit.microphones)
      wanted.set(one.id, { echo: one.echo, noise: one.noise, gain: one.gain })
  }

  /** Push to talk, push to mute: while the key is held it is the other way round. */
  let before: { id: string | null } | null = null
  async function hold(down: boolean) {
    if (!down) {
      const back = before
      before = null
      if (back) await open(back.id)
      return
    }
    if (before) return
    const now = openNow()
    const id = now ? null : (lastOpen.value ?? here.value[0]?.id ?? null)
    if (!now && !id) return sentences.say('No microphone was open yet: open one under Sound first.')
    before = { id: now }
    await open(id)
  }

  /**
   * Another tab opened one, or closed all from the outgoing window: what was open here is stopped. News may be older than the last
   * press here, so they have to stand for a moment.
   */
  watch(() => live.state, agree)
  watch(
    () => live.connected,
    () => (pressed = null), // another server counts anew
  )
  watch(heardOf, () => window.setTimeout(settle, STANDS_MS))
  function settle() {
    const mine = openId.value
    if (!mine || heardOf() === mine || pressed) return
    openId.value = null
    const sender = sending.get(mine)
    if (sender && !looking.value) stop(mine, sender)
  }

  return { here, trouble, troubles, sending, openId, lastOpen, looking, look, leave, open, openNow, process, declare, hold } // prettier-ignore
})
