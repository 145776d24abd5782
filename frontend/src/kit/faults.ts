import type { Schemas } from '@/api/client'

export type Fault = NonNullable<Schemas['FaultProvoked']['fault']>

const ALL: Fault[] = [
  'warming up',
  'asleep',
  'asleep in ten seconds',
  'black',
  'stuck',
  'out of focus',
  'pulled out',
  'half the frames',
  'two seconds late',
  'low battery',
  'wrong lens',
]

/** What can be provoked on a simulated device, to see what Cartouche does then. */
export const FAULTS: { value: string; label: string }[] = [
  { value: 'none', label: 'Bench: it works' },
  ...ALL.map((fault) => ({ value: fault, label: `Bench: ${fault}` })),
]
