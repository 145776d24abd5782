import { defineStore } from 'pinia'
import { reactive, watch } from 'vue'
import { api, answer } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { useLoudspeaker } from '@/sound/loudspeaker'
import { at } from '@/shared/at'

const MAX_APART_S = 0.25 // beyond it the sound jumps to where the picture is

/** A clip's sound, a source of its own: played by this tab, in step with the picture, for as long as it is switched on. */
export const useClipSound = defineStore('clip-sound', () => {
  const live = useLive()
  const loudspeaker = useLoudspeaker()
  const sentences = useSentences()
  const open = reactive(new Map<string, HTMLAudioElement>())

  /** Heard here and, by the server, by learners: once, without the way through loudspeaker and microphone. */
  function toggle(deviceId: string) {
    const known = open.get(deviceId)
    void send(deviceId, !known)
    if (known) {
      known.pause()
      open.delete(deviceId)
      return
    }
    const sound = new Audio(at(`/api/kit/devices/${encodeURIComponent(deviceId)}/file`))
    sound.preload = 'auto'
    void loudspeaker.sink(sound)
    open.set(deviceId, sound)
    follow()
  }

  function send(deviceId: string, sounds: boolean) {
    const path = { device_id: deviceId }
    return sentences.attempt(() =>
      answer(api.PUT('/api/kit/devices/{device_id}/clip', { params: { path }, body: { sounds } })),
    )
  }

  function follow() {
    for (const [deviceId, sound] of open) {
      const clip = live.feeds.get(deviceId)?.clip
      if (!clip) {
        sound.pause()
        open.delete(deviceId)
        continue
      }
      if (Math.abs(sound.currentTime - clip.position_s) > MAX_APART_S) sound.currentTime = clip.position_s
      if (clip.playing && sound.paused) void sound.play().catch(() => {})
      if (!clip.playing && !sound.paused) sound.pause()
    }
  }
  watch(() => live.state, follow)

  return { open, toggle }
})
