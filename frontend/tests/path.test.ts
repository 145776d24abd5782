import { describe, expect, it } from 'vitest'
import { pathSteps, type PathFacts } from '@/shared/path'

const READY: PathFacts = {
  hasPage: true,
  hasFace: true,
  anyLost: false,
  readsTrue: true,
  goingOut: false,
  windows: 0,
  takenBy: null,
  microphone: null,
  ready: null,
}
const step = (word: string, facts: Partial<PathFacts> = {}) =>
  pathSteps({ ...READY, ...facts }).find((one) => one.word === word)!

describe('the path in the header', () => {
  it('has the eight words in the order of work', () => {
    expect(pathSteps(READY).map((one) => one.word)).toEqual([
      'Kit',
      'Square up',
      'Plates',
      'Sound',
      'Way in',
      'Ready',
      'Teach',
      'After',
    ])
  })
  it('leads somewhere with every word', () => {
    expect(new Set(pathSteps(READY).map((one) => one.to)).size).toBe(8)
  })
  it.each([
    [{ hasPage: false }, 'No camera serves as page'],
    [{ hasFace: false }, 'No camera serves as face'],
    [{ anyLost: true }, 'A camera gives no picture'],
  ])('Kit wants attention when %o', (facts, says) => {
    expect(step('Kit', facts)).toMatchObject({ state: 'attention', says })
  })
  it('Sound names the open microphone', () => {
    expect(step('Sound')).toMatchObject({ state: 'nothing', says: 'All microphones are closed' })
    expect(step('Sound', { microphone: 'Lapel' })).toMatchObject({ state: 'done', says: 'Lapel is open' })
  })
  it('Square up tells true, reversed and not yet known apart', () => {
    expect(step('Square up').state).toBe('done')
    expect(step('Square up', { readsTrue: false }).state).toBe('attention')
    expect(step('Square up', { readsTrue: null }).state).toBe('nothing')
  })
  it('Way in says who takes the picture', () => {
    expect(step('Way in').state).toBe('nothing')
    expect(step('Way in', { takenBy: 'Taken by call.example' })).toMatchObject({
      state: 'done',
      says: 'Taken by call.example',
    })
  })
  it('Teach is done while it goes out', () => {
    expect(step('Teach', { goingOut: true })).toMatchObject({ state: 'done', says: 'Going out' })
  })
})
