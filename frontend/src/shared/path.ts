export interface PathFacts {
  hasPage: boolean
  hasFace: boolean
  anyLost: boolean
  readsTrue: boolean | null
  goingOut: boolean
  windows: number
  microphone: string | null
}

export interface PathStep {
  word: string
  name?: string
  to?: string
  state: 'nothing' | 'done' | 'attention'
  says: string
}

/** The eight words in the order of work, each with its state. Words without a screen have no `to`. */
export function pathSteps(facts: PathFacts): PathStep[] {
  return [
    { word: 'Kit', name: 'kit', to: '/kit', ...kitState(facts) },
    { word: 'Square up', name: 'square-up', to: '/square-up', ...squareState(facts) },
    { word: 'Plates', name: 'plates', to: '/plates', state: 'nothing', says: 'What stands where' },
    { word: 'Sound', name: 'sound', to: '/sound', ...soundState(facts) },
    later('Way in'),
    later('Ready'),
    {
      word: 'Teach',
      name: 'teach',
      to: '/teach',
      state: facts.goingOut ? 'done' : 'nothing',
      says: facts.goingOut ? 'Going out' : 'Not going out yet',
    },
    later('After'),
  ]
}

function later(word: string): PathStep {
  return { word, state: 'nothing', says: 'Not there yet' }
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
