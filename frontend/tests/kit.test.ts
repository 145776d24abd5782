import { describe, expect, it } from 'vitest'
import type { Device, FeedView } from '@/api/client'
import { TROUBLES, troubleOf, type CameraTrouble } from '@/kit/capture'
import { deviceSays } from '@/kit/states'

const device = { id: 'c', kind: 'camera', name: 'Mine' } as Device
const feed = (state: FeedView['state'], sentence: string | null = null) =>
  ({ id: 'c', state, sentence }) as FeedView

describe('what went wrong with a camera', () => {
  it.each([
    ['NotAllowedError', 'denied'],
    ['SecurityError', 'denied'],
    ['NotFoundError', 'none'],
    ['NotReadableError', 'busy'],
    ['AbortError', 'busy'],
    ['OverconstrainedError', 'gone'],
    ['NotSupportedError', 'unsupported'],
  ])('%s means %s', (name, trouble) => {
    expect(troubleOf(new DOMException('', name))).toBe(trouble)
  })
  it('takes anything', () => {
    for (const odd of [null, undefined, 7, 'x', {}]) expect(troubleOf(odd)).toBe('unsupported')
  })
  it('has a sentence and a press of its own for each', () => {
    const all = Object.values(TROUBLES)
    expect(new Set(all.map((one) => one.sentence)).size).toBe(all.length)
    for (const one of all) {
      expect(one.sentence).toMatch(/^[A-Z].*\.$/s)
      expect(one.press.length).toBeGreaterThan(5)
    }
  })
})

describe('one word and one sentence for a device', () => {
  it.each([
    ['live', 'holds', 'Live'],
    ['starting', 'look', 'Starting'],
    ['asleep', 'wrong', 'Asleep'],
    ['black', 'wrong', 'Black'],
    ['stuck', 'wrong', 'Stuck'],
    ['blurred', 'look', 'Out of focus'],
    ['lost', 'wrong', 'Lost'],
    ['off', 'unknown', 'Off'],
  ] as const)('%s', (state, kind, word) => {
    expect(deviceSays(device, feed(state), undefined)).toMatchObject({ kind, word })
  })
  it('says what to do when it is lost', () => {
    expect(deviceSays(device, feed('lost'), undefined).sentence).toContain('cable')
    expect(deviceSays(device, feed('lost', 'Its own reason.'), undefined).sentence).toBe('Its own reason.')
  })
  it('offers to bring back what can be brought back', () => {
    const presses = (['live', 'starting', 'blurred', 'asleep', 'black', 'stuck', 'lost'] as const).filter(
      (state) => deviceSays(device, feed(state), undefined).press,
    )
    expect(presses).toEqual(['asleep', 'black', 'stuck', 'lost'])
  })
  it('asks for permission before anything else', () => {
    expect(deviceSays(device, feed('off'), { phase: 'asking' }).word).toBe('Asking')
  })
  it.each(['denied', 'none', 'busy', 'gone', 'elsewhere', 'unsupported'] as CameraTrouble[])(
    'names the trouble %s',
    (trouble) => {
      const says = deviceSays(device, feed('off'), { phase: 'trouble', trouble, sentence: 'So.' })
      expect(says).toMatchObject({ kind: 'wrong', sentence: 'So.' })
    },
  )
  it('is live all the same when another tab brings it', () => {
    const says = deviceSays(device, feed('live'), {
      phase: 'trouble',
      trouble: 'elsewhere',
      sentence: 'There.',
    })
    expect(says).toEqual({ kind: 'holds', word: 'Live', sentence: 'There.' })
  })
  it('is off while nothing is known', () => {
    expect(deviceSays(device, undefined, undefined).word).toBe('Off')
  })
})
