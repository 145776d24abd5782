import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { useSentences } from '@/shared/sentences'
import { useMicrophones } from './microphones'

export type Sound = Schemas['SoundView']
export type SoundKit = Schemas['SoundKit']
type Microphone = Schemas['KnownMicrophone']

/** What the Sound screen looks at, four times a second while it is shown. */
export const useSoundLook = defineStore('sound-look', () => {
  const sentences = useSentences()
  const microphones = useMicrophones()
  const sound = ref<Sound | null>(null)
  let asking = false
  const kept = useChanging<Sound>({
    signature: () => null, // looked at by the clock
    news: () => null,
    look: () => answer(api.GET('/api/sound')),
    take,
  })

  function take(view: Sound | undefined | null) {
    if (!view) return
    sound.value = view
    microphones.declare(view.declared)
  }
  async function look() {
    if (asking || document.hidden) return
    asking = true
    await kept.again()
    asking = false
  }
  /** Changes what the teacher says of the sound; the newest of it is the base, so two quick changes are two. */
  async function declare(change: (kit: SoundKit) => SoundKit) {
    if (!sound.value) return
    const kit = change(sound.value.declared)
    const known = new Map(kit.microphones.map((one) => [one.id, one]))
    const microphones = sound.value.microphones.map((one) => ({
      ...one,
      declared: known.get(one.id) ?? one.declared,
    }))
    sound.value = { ...sound.value, declared: kit, microphones }
    await kept.press(() => answer(api.PUT('/api/sound/kit', { body: kit })))
  }
  /** one: as a look told it, for a microphone that nobody has said anything of yet. */
  function declareMicrophone(one: Microphone, change: Partial<Microphone>) {
    return declare((kit) => ({
      ...kit,
      microphones: kit.microphones.some((known) => known.id === one.id)
        ? kit.microphones.map((known) => (known.id === one.id ? { ...known, ...change } : known))
        : [...kit.microphones, { ...one, ...change }],
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
