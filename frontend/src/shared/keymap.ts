/** The one table of keys: what each does, screen by screen. `?` shows it, `useKeys` obeys it, the tests walk it. */
export interface Key {
  do: string
  keys: readonly string[]
  shown: string
  says: string
}

const DIGITS = ['1', '2', '3', '4', '5', '6', '7', '8', '9'] as const
const plates = [
  { do: 'plate', keys: DIGITS, shown: '1 … 9', says: 'Make this plate outgoing' },
  { do: 'next', keys: ['n'], shown: 'N', says: 'Next plate' },
  { do: 'previous', keys: ['p'], shown: 'P', says: 'Previous plate' },
] as const

export const KEYMAP = {
  everywhere: [
    { do: 'help', keys: ['?'], shown: '?', says: 'Show these keys' },
    { do: 'mute', keys: ['m'], shown: 'M', says: 'Close all microphones' },
    { do: 'talk', keys: ['t'], shown: 'T, held', says: 'Talk while held; silent while held if one is open' },
  ],
  teach: [
    { do: 'call', keys: ['g'], shown: 'G', says: 'Start or stop the practice call' },
    { do: 'ink', keys: ['i'], shown: 'I', says: 'Draw over the page, or no longer' },
    { do: 'window', keys: ['o'], shown: 'O', says: 'Open the outgoing window' },
  ],
  clip: [
    { do: 'play', keys: ['v'], shown: 'V', says: 'Play or pause the clip' },
    { do: 'sound', keys: ['x'], shown: 'X', says: 'Sound of the clip on or off' },
  ],
  outgoing: [
    ...plates,
    { do: 'mute', keys: ['m'], shown: 'M', says: 'Close all microphones' },
    { do: 'sound', keys: ['s'], shown: 'S', says: 'The lesson’s sound in this window, on or off' },
    { do: 'whole', keys: ['f'], shown: 'F', says: 'Full screen' },
  ],
  plates: [
    { do: 'choose', keys: DIGITS, shown: '1 … 9', says: 'Choose this plate' },
    { do: 'next', keys: ['n'], shown: 'N', says: 'Choose the next plate' },
    { do: 'previous', keys: ['p'], shown: 'P', says: 'Choose the previous plate' },
    { do: 'out', keys: ['g'], shown: 'G', says: 'Make the chosen plate outgoing' },
    { do: 'adorn', keys: ['a'], shown: 'A', says: 'Caption and frame on or off' },
    { do: 'undo', keys: ['z'], shown: 'Z', says: 'Undo' },
    { do: 'redo', keys: ['y'], shown: 'Y', says: 'Redo' },
    { do: 'remove', keys: ['Delete'], shown: 'Delete', says: 'Remove the chosen place' },
    { do: 'leave', keys: ['Escape'], shown: 'Esc', says: 'Leave the chosen place' },
  ],
  squareUp: [
    { do: 'find', keys: ['q'], shown: 'Q', says: 'Square it up' },
    { do: 'card', keys: ['k'], shown: 'K', says: 'Use the set-up card' },
    { do: 'leave', keys: ['l'], shown: 'L', says: 'Leave as it is' },
    { do: 'undo', keys: ['z'], shown: 'Z', says: 'Undo' },
    { do: 'redo', keys: ['y'], shown: 'Y', says: 'Redo' },
    { do: 'compare', keys: ['c'], shown: 'C, held', says: 'Compare with the camera view' },
    { do: 'whole', keys: ['0'], shown: '0', says: 'Show the whole page' },
    { do: 'up', keys: ['['], shown: '[', says: 'Move up the page' },
    { do: 'down', keys: [']'], shown: ']', says: 'Move down the page' },
  ],
} as const satisfies Record<string, readonly Key[]>

export type Keyed = keyof typeof KEYMAP
export type Action<Screen extends Keyed> = (typeof KEYMAP)[Screen][number]['do']

const WORDS: Record<string, string> = {
  ' ': 'Space',
  PageDown: 'PgDn',
  PageUp: 'PgUp',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
}
/** A key as it stands on a button. */
export const keyShown = (key: string) => WORDS[key] ?? (key.length === 1 ? key.toUpperCase() : key)
