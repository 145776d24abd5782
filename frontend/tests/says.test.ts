import { describe, expect, it } from 'vitest'
import type { Chain, SquareUpView } from '@/api/client'
import { frameSays, mirrorSays, signed, squareSays, turnSays } from '@/square-up/says'

const chain = (parts: object) =>
  ({
    turn: { on: true, quarters: 0, fine_deg: 0 },
    mirror: { on: true, left_right: false, top_bottom: false },
    frame: { on: true, zoom: 1, x: 0.5, y: 0.5 },
    ...parts,
  }) as Chain

describe('numbers with a sign', () => {
  it.each([
    [4, 0, '+4'],
    [-4, 0, '−4'],
    [0, 0, '0'],
    [-0.04, 1, '0.0'],
    [0.25, 1, '+0.3'],
  ])('%d to %d places', (value, digits, text) => expect(signed(value, digits)).toBe(text))
})

describe('a sentence for each link', () => {
  it('turn', () => {
    expect(turnSays(chain({}))).toBe('Not turned')
    expect(turnSays(chain({ turn: { on: true, quarters: 2, fine_deg: -1.5 } }))).toBe('Half a turn, −1.5°')
  })
  it('mirror', () => {
    const mirrored = (left_right: boolean, top_bottom: boolean) =>
      mirrorSays(chain({ mirror: { on: true, left_right, top_bottom } }))
    expect(mirrored(false, false)).toBe('Not flipped')
    expect(mirrored(true, false)).toBe('Flipped left–right')
    expect(mirrored(false, true)).toBe('Flipped top–bottom')
    expect(mirrored(true, true)).toContain('half a turn')
  })
  it('frame', () => {
    expect(frameSays(chain({}))).toBe('The whole page')
    expect(frameSays(chain({ frame: { on: true, zoom: 2, x: 0.5, y: 0.5 } }))).toContain('part')
  })
  it('square tells the measured tilt, or nothing that was not measured', () => {
    const tilted = (tilt_deg: number | null) => squareSays({ readings: { tilt_deg } } as SquareUpView)
    expect(tilted(23.7)).toBe('Seen 24° off straight above')
    expect(tilted(0.4)).toBe('Seen from straight above')
    expect(tilted(null)).toBe('Four corners to a rectangle')
  })
})
