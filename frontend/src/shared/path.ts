import type { Schemas } from '@/api/client'

export interface PathFacts {
  hasPage: boolean
  hasFace: boolean
  anyLost: boolean
  readsTrue: boolean | null
  goingOut: boolean
  windows: number
  takenBy: string | null
  microphone: string | null
  ready: Schemas['SummaryView'] | null
}

export interface PathStep {
  word: string
  name: string
  to: string
  state: 'nothing' | 'done' | 'attention'
  says: string
}

/** The eight words in the order of work, each with its state. */
export function pathSteps(facts: PathFacts): PathStep[] {
  return [
    { word: 'Kit', name: 'kit', to: '/kit', ...kitState(facts) },
    { word: 'Square up', name: 'square-up', to: '/square-up', ...squareState(facts) },
    { word: 'Plates', name: 'plates', to: '/plates', state: 'nothing', says: 'What stands where' },
    { word: 'Sound', name: 'sound', to: '/sound', ...soundState(facts) },
    { word: 'Way in', name: 'way-in', to: '/way-in', ...wayState(facts) },
    { word: 'Ready', name: 'ready', to: '/ready', ...readyState(facts) },
    {
      word: 'Teach',
      name: 'teach',
      to: '/teach',
      state: facts.goingOut ? 'done' : 'nothing',
      says: facts.goingOut ? 'Going out' : 'Not going out yet',
    },
    { word: 'After', name: 'after', to: '/after', state: 'nothing', says: 'Sheets, recordings, handout' },
  ]
}

function wayState(facts: PathFacts): Pick<PathStep, 'state' | 'says'> {
  if (facts.takenBy) return { state: 'done', says: facts.takenBy }
  return { state: 'nothing', says: 'How it gets into the call' }
}

function readyState({ ready }: PathFacts): Pick<PathStep, 'state' | 'says'> {
  if (!ready) return { state: 'nothing', says: 'Seen once a lesson is open' }
  return { state: ready.verdict === 'holds' ? 'done' : 'attention', says: ready.says }
}

function kitState(facts: PathFacts): Pick<PathStep, 'state' | 'says'> {
  if (!facts.hasPage) return { state: 'attention', says: 'No camera serves as page' }
  if (!facts.hasFace) return { state: 'attention', says: 'No camera serves as face' }
  if (facts.anyLost) return { state: 'attention', says: 'A camera gives no picture' }
  return { state: 'done', says: 'Page and face have their cameras' }
}

function soundState(facts: PathFacts): Pick<PathStep, 'state' | 'says'> {
  return facts.microphone
    ? { state: 'done', says: `${facts.microphone} is open` }
    : { state: 'nothing', says: 'All microphones are closed' }
}

function squareState(facts: PathFacts): Pick<PathStep, 'state' | 'says'> {
  if (facts.readsTrue === null) return { state: 'nothing', says: 'Seen once the page has a picture' }
  return facts.readsTrue
    ? { state: 'done', says: 'The page reads true for learners' }
    : { state: 'attention', says: 'The page reads reversed for learners' }
}
