import { defineStore } from 'pinia'
import { ref } from 'vue'

export interface LoudspeakerHere {
  id: string
  label: string
}

const TONE_S = 1.2
const KEPT = 'cartouche.loudspeaker'

interface Sinkable {
  setSinkId?: (id: string) => Promise<void>
}

/** The loudspeaker of this browser: chosen by name, tried by a tone; everything Cartouche plays goes there. */
export const useLoudspeaker = defineStore('loudspeaker', () => {
  const here = ref<LoudspeakerHere[]>([])
  const chosen = ref(localStorage.getItem(KEPT) ?? '')
  const canChoose = 'setSinkId' in HTMLMediaElement.prototype
  const playing = ref<HTMLAudioElement | null>(null)

  async function look() {
    const found = (await navigator.mediaDevices?.enumerateDevices()) ?? []
    here.value = found
      .filter(
        (one) => one.kind === 'audiooutput' && !['', 'default', 'communications'].includes(one.deviceId),
      )
      .map((one) => ({ id: one.deviceId, label: one.label }))
    if (chosen.value && !here.value.some((one) => one.id === chosen.value)) choose('')
  }
  function choose(id: string) {
    chosen.value = id
    localStorage.setItem(KEPT, id)
    if (playing.value) void sink(playing.value)
  }
  async function sink(element: HTMLMediaElement) {
    if (canChoose) await (element as Sinkable).setSinkId?.(chosen.value).catch(() => choose(''))
  }
  /** One at a time; resolves when it is over or another began. */
  async function play(url: string) {
    playing.value?.pause()
    const element = new Audio(url)
    playing.value = element
    await sink(element)
    const over = new Promise<void>((resolve) => {
      for (const event of ['ended', 'pause', 'error']) element.addEventListener(event, () => resolve())
    })
    await element.play()
    await over
    if (playing.value === element) playing.value = null
  }
  /** A tone that begins and ends softly: a fault of the loudspeaker is heard, a click of ours is not. */
  async function tone() {
    const context = new AudioContext()
    await (context as unknown as Sinkable).setSinkId?.(chosen.value).catch(() => {})
    const source = new OscillatorNode(context, { frequency: 440 })
    const level = new GainNode(context, { gain: 0 })
    const now = context.currentTime
    level.gain.linearRampToValueAtTime(0.2, now + 0.1)
    level.gain.setValueAtTime(0.2, now + TONE_S - 0.2)
    level.gain.linearRampToValueAtTime(0, now + TONE_S)
    source.connect(level).connect(context.destination)
    source.start(now)
    source.stop(now + TONE_S)
    await new Promise((resolve) => source.addEventListener('ended', resolve))
    await context.close()
  }

  return { here, chosen, canChoose, playing, look, choose, play, tone, sink }
})
