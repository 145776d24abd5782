/** How each verdict looks, and its word. */
export const KINDS: Record<string, 'holds' | 'look' | 'wrong'> = {
  well: 'holds',
  'no voice': 'look',
  'too quiet': 'look',
  noisy: 'look',
  'too loud': 'wrong',
  noise: 'wrong',
  hum: 'wrong',
  nothing: 'wrong',
  clipped: 'wrong',
  torn: 'wrong',
  'not heard': 'look',
}
export const WORDS: Record<string, string> = {
  well: 'Good',
  'no voice': 'No voice yet',
  'too quiet': 'Too quiet',
  noisy: 'Noisy',
  'too loud': 'Too loud',
  noise: 'Only noise',
  hum: 'Hum',
  nothing: 'Nothing at all',
  clipped: 'Clipped',
  torn: 'Pieces missing',
  'not heard': 'Not heard',
}
export const LEARNERS: Record<string, { kind: 'holds' | 'look' | 'wrong'; word: string }> = {
  once: { kind: 'holds', word: 'Heard once' },
  twice: { kind: 'wrong', word: 'Heard twice' },
  howls: { kind: 'wrong', word: 'Howls' },
  'not heard': { kind: 'look', word: 'Not heard' },
  late: { kind: 'look', word: 'Late' },
  early: { kind: 'look', word: 'Early' },
}
export const FINDINGS: Record<string, { kind: 'look' | 'wrong'; word: string }> = {
  loop: { kind: 'wrong', word: 'Loop' },
  echo: { kind: 'wrong', word: 'Echo' },
  double: { kind: 'wrong', word: 'Twice' },
  silence: { kind: 'look', word: 'Silence' },
  deaf: { kind: 'look', word: 'Not played' },
}
