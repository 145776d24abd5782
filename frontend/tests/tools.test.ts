import { describe, expect, it } from 'vitest'
import { actionOf } from '@/teach/actions'
import { reads } from '@/teach/reads'

const action = (name: string, keys: string[]) => ({ name, keys, shown: keys[0]!, says: name, own: false })
const TOOLS = {
  actions: [action('plate', ['1', '2']), action('hold', ['h', 'b']), action('forward', ['PageDown'])],
}

describe('what the timer reads', () => {
  it('counts a begun second as whole going down, and not going up', () => {
    expect([reads(300, 'down'), reads(299.1, 'down'), reads(0.2, 'down'), reads(-3, 'down')]).toEqual([
      '5:00',
      '5:00',
      '0:01',
      '0:00',
    ])
    expect([reads(0.9, 'up'), reads(61, 'up'), reads(3661, 'up')]).toEqual(['0:00', '1:01', '1:01:01'])
  })
})

describe('which action a key does', () => {
  it('goes by the teacher’s own table, and a digit is the plate’s number', () => {
    expect(actionOf(TOOLS as never, 'B')).toEqual({ name: 'hold' })
    expect(actionOf(TOOLS as never, 'PageDown')).toEqual({ name: 'forward' })
    expect(actionOf(TOOLS as never, '2')).toEqual({ name: 'plate', number: 2 })
    expect(actionOf(TOOLS as never, 'q')).toBeNull()
    expect(actionOf(null, 'h')).toBeNull()
  })
})
