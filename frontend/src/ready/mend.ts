import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, answer, type Device } from '@/api/client'
import { useMends } from '@/kit/mends'
import { useControls } from '@/shared/controls'
import { useLive } from '@/shared/live'
import { useOutgoing } from '@/shared/outgoing'
import { useSentences } from '@/shared/sentences'
import { useMicrophones } from '@/sound/microphones'
import { useSoundLook } from '@/sound/look'
import { useChain } from '@/square-up/chain'
import { usePresses } from '@/square-up/presses'
import { useReady, type Check, type Press } from './ready'

const SCREENS: Partial<Record<Press, string>> = {
  kit: '/kit',
  first: '/first',
  plates: '/plates',
  sound: '/sound',
  'way-in': '/way-in',
  'open-lesson': '/',
}

/** One press mends one line of the check. */
export function useMend() {
  const live = useLive()
  const router = useRouter()
  const ready = useReady()
  const sentences = useSentences()
  const outgoing = useOutgoing()
  const microphones = useMicrophones()
  const sound = useSoundLook()
  const mends = useMends()
  const page = computed(() => live.pageDevice)
  const chain = useChain(computed(() => page.value?.id))
  const controls = useControls(
    page,
    computed(() => (page.value ? live.kit?.guests[page.value.id] : undefined)),
  )
  const press = usePresses(chain, () => {
    if (controls.canRefocus.value) void controls.focus()
    else sentences.say('Press focus on the camera itself, or move it a little.')
  })
  const busy = ref('')

  async function mend(check: Check) {
    busy.value = check.id
    try {
      await done(check)
    } finally {
      busy.value = ''
      void ready.again()
    }
  }
  async function done(check: Check) {
    const wanted = check.press
    const device: Device | undefined = live.kit?.devices.find((one) => one.id === check.target)
    const screen = wanted && SCREENS[wanted]
    if (screen) return router.push(screen)
    if (wanted === 'restart') return device && mends.bringBack(device)
    if (wanted === 'lens') return device && mends.otherLens(device)
    if (wanted === 'swap') return sentences.attempt(() => answer(api.POST('/api/ready/exchange')))
    if (wanted === 'open-microphone') return microphones.open(check.target)
    if (wanted === 'front-window') return outgoing.mine ? outgoing.forward() : outgoing.open()
    if (wanted === 'end-finding') {
      const finding = ready.view?.finding
      return finding?.press.length ? sound.press(finding.press) : router.push('/sound')
    }
    if (wanted) press(wanted as Parameters<typeof press>[0])
  }
  return { mend, busy }
}
