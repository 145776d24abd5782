import { defineStore } from 'pinia'
import { reactive, ref, shallowReactive, watch } from 'vue'
import { api, answer } from '@/api/client'
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
}

/** The microphones of this computer that this tab sends. One that is neither open nor looked at is stopped in the browser. */
export const useMicrophones = defineStore('microphones', () => {
  const sentences = useSentences()
  const here = ref<MicrophoneHere[]>([])
  const trouble = ref<SoundTrouble | null>(null)
  const troubles = reactive(new Map<string, SoundTrouble>())
  const sending = shallowReactive(new Map<string, SoundSender>())
  const openId = ref<string | null>(null)
  const looking = ref(false)

  /** Without echo, noise and gain processing: what is measured is what the microphone gives. */
  function capture(id?: string): Promise<MediaStream> {
    if (!navigator.mediaDevices) throw new DOMException('no secure context', 'NotSupportedError')
    const plain = {
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
      channelCount: 1,
    }
    return navigator.mediaDevices.getUserMedia({
      audio: { ...plain, ...(id ? { deviceId: { exact: id } } : {}) },
    })
  }

  async function look() {
    looking.value = true
    trouble.value = null
    try {
      for (const track of (await capture()).getTracks()) track.stop() // names are told after permission only
      const found = await navigator.mediaDevices.enumerateDevices()
      here.value = found
        .filter(
          (one) => one.kind === 'audioinput' && !['', 'default', 'communications'].includes(one.deviceId),
        )
        .map((one) => ({ id: one.deviceId, label: one.label }))
      if (!here.value.length) trouble.value = 'none'
      await Promise.all(here.value.map(measure))
    } catch (error) {
      trouble.value = soundTrouble(error)
    }
  }
  async function measure(one: MicrophoneHere) {
    if (sending.has(one.id) || !looking.value) return
    try {
      const sender = new SoundSender(one.id, one.label, await capture(one.id), ended)
      if (!looking.value) return sender.stop()
      sending.set(one.id, sender)
      troubles.delete(one.id)
      await sender.start()
    } catch (error) {
      troubles.set(one.id, soundTrouble(error))
    }
  }
  function ended(id: string) {
    const wasUnplugged = sending.has(id)
    sending.delete(id)
    if (openId.value === id) openId.value = null
    if (wasUnplugged && looking.value) troubles.set(id, 'gone')
  }
  function leave() {
    looking.value = false
    for (const [id, sender] of sending) if (id !== openId.value) stop(id, sender)
  }
  function stop(id: string, sender: SoundSender) {
    sending.delete(id)
    sender.stop()
  }

  /** Opens this one and closes all others; null closes all. What is closed is stopped here first, whatever the server says. */
  async function open(id: string | null) {
    openId.value = here.value.some((one) => one.id === id) ? id : null
    if (!looking.value) for (const [other, sender] of sending) if (other !== id) stop(other, sender)
    const done = await sentences.attempt(() => answer(api.PUT('/api/sound/open', { body: { id } })))
    if (!done) openId.value = null
  }

  /** Another tab opened one, or closed all from the outgoing window: what was open here is stopped. */
  const live = useLive()
  watch(
    () => live.state?.microphone?.id ?? null,
    (id) => {
      const mine = openId.value
      if (!mine || id === mine) return
      openId.value = null
      const sender = sending.get(mine)
      if (sender && !looking.value) stop(mine, sender)
    },
  )

  return { here, trouble, troubles, sending, openId, look, leave, open }
})
