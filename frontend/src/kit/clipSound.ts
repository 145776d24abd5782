import { defineStore } from 'pinia'
import { reactive, watch } from 'vue'
import { useLive } from '@/shared/live'

const MAX_APART_S = 0.25 // beyond it the sound jumps to where the picture is

/** A clip's sound, a source of its own: played by this tab, in step with the picture, for as long as it is switched on. */
export const useClipSound = defineStore('clip-sound', () => {
  const live = useLive()
  const open = reactive(new Map<string, HTMLAudioElement>())

  function toggle(deviceId: string) {
    const known = open.get(deviceId)
    if (known) {
      known.pause()
      open.delete(deviceId)
      return
    }
    const sound = new Audio(`/api/kit/devices/${encodeURIComponent(deviceId)}/file`)
    sound.preload = 'auto'
    open.set(deviceId, sound)
    follow()
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
