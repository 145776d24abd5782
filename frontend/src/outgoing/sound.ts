import { ref } from 'vue'
import { reconnecting, socketUrl } from '@/shared/reconnecting'

const RATE = 48000
const LEAD_S = 0.06 // ahead of the loudspeaker's clock: blocks come unevenly
const FAR_S = 0.4

/** The lesson's sound played by this tab, for whoever it is shared with: off until it is asked for, so that nobody hears it twice. */
export function useTabSound() {
  const on = ref(false)
  let context: AudioContext | null = null
  let line: { close: () => void } | null = null
  let due = 0

  function play(data: ArrayBuffer) {
    if (!context) return
    const samples = new Int16Array(data)
    const buffer = context.createBuffer(1, samples.length, RATE)
    const channel = buffer.getChannelData(0)
    for (let at = 0; at < samples.length; at += 1) channel[at] = samples[at]! / 32768
    const now = context.currentTime
    if (due < now || due > now + FAR_S) due = now + LEAD_S
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(context.destination)
    source.start(due)
    due += buffer.duration
  }
  function toggle() {
    on.value = !on.value
    if (on.value) {
      context = new AudioContext({ sampleRate: RATE })
      void context.resume()
      line = reconnecting(
        () => socketUrl('/api/outgoing/sound'),
        () => {},
        (data) => play(data as ArrayBuffer),
        () => {},
      )
    } else {
      line?.close()
      void context?.close()
      line = context = null
    }
  }
  return { on, toggle }
}
