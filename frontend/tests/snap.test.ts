import { describe, expect, it } from 'vitest'
import { dragged, MIN_SHARE, NEAR, nudged } from '@/plates/snap'

const box = { x: 0.3, y: 0.3, width: 0.2, height: 0.2 }

describe('dragged', () => {
  it('moves freely where nothing is near', () => {
    const made = dragged(box, 'move', 0.07, 0.06, [])
    expect(made.guides).toEqual([])
    expect(made.box.x).toBeCloseTo(0.37)
  })
  it('snaps edges and middles to halves and thirds, and says so', () => {
    const made = dragged(box, 'move', 0.1 + NEAR / 2, 0.06, [])
    expect(made.box.x + made.box.width / 2).toBeCloseTo(0.5)
    expect(made.guides).toContainEqual({ axis: 'x', at: 0.5 })
  })
  it('snaps to another place, and not with the key held', () => {
    const other = { x: 0.71, y: 0.05, width: 0.2, height: 0.2 }
    const made = dragged(box, 'e', 0.205, 0, [other])
    expect(made.box.x + made.box.width).toBeCloseTo(0.71)
    expect(dragged(box, 'e', 0.205, 0, [other], true).box.width).toBeCloseTo(0.405)
  })
  it('stays in the picture and never vanishes', () => {
    const far = dragged(box, 'move', 5, -5, []).box
    expect(far.x + far.width).toBeCloseTo(1)
    expect(far.y).toBe(0)
    const small = dragged(box, 'se', -5, -5, []).box
    expect(small.width).toBeCloseTo(MIN_SHARE)
    const left = dragged(box, 'w', -5, 0, []).box
    expect(left.x).toBe(0)
    expect(left.width).toBeCloseTo(0.5)
  })
})

describe('nudged', () => {
  it('moves by a step and resizes with the other key', () => {
    expect(nudged(box, 'ArrowRight', 0.01, false)).toMatchObject({ x: 0.31, width: 0.2 })
    expect(nudged(box, 'ArrowDown', 0.01, true).height).toBeCloseTo(0.21)
    expect(nudged({ ...box, x: 0 }, 'ArrowLeft', 0.01, false).x).toBe(0)
  })
})
