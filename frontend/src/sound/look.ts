import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useSentences } from '@/shared/sentences'
import { useMicrophones } from './microphones'

export type Sound = Schemas['SoundView']
export type SoundKit = Schemas['SoundKit']

/** What the Sound screen looks at, four times a second while it is shown. */
export const useSoundLook = defineStore('sound-look', () => {
  const sentences = useSentences()
  const microphones = useMicrophones()
  const sound = ref<Sound | null>(null)
  let asking = false

  function take(view: Sound | undefined | null) {
    if (!view) return
    sound.value = view
    microphones.declare(view.declared)
  }
  async function look() {
    if (asking || document.hidden) return
    asking = true
    take(await answer(api.GET('/api/sound')).catch(() => null))
    asking = false
  }
  /** Changes what the teacher says of the sound; the newest of it is the base, so two quick changes are two. */
  async function declare(change: (kit: SoundKit) => SoundKit) {
    if (!sound.value) return
    const kit = change(sound.value.declared)
    sound.value = { ...sound.value, declared: kit }
    await sentences.attempt(async () => take(await answer(api.PUT('/api/sound/kit', { body: kit }))))
  }
  function declareMicrophone(one: Schemas['KnownMicrophone']) {
    return declare((kit) => ({
      ...kit,
      microphones: kit.microphones.some((known) => known.id === one.id)
        ? kit.microphones.map((known) => (known.id === one.id ? one : known))
        : [...kit.microphones, one],
    }))
  }
  async function press(presses: Schemas['PressView'][]) {
    for (const one of presses.filter((known) => known.switch === 'close'))
      if (microphones.openId === one.id) await microphones.open(null)
    for (const one of presses.filter((known) => known.switch === 'open'))
      if (microphones.here.some((known) => known.id === one.id)) return void microphones.open(one.id)
    await sentences.attempt(async () =>
      take(await answer(api.POST('/api/sound/press', { body: { presses } }))),
    )
  }

  return { sound, take, look, declare, declareMicrophone, press }
})
