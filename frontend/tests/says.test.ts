import { describe, expect, it } from 'vitest'
import type { Chain, SquareUpView } from '@/api/client'
import {
  frameSays,
  lightSays,
  mirrorSays,
  signed,
  spotSays,
  squareSays,
  turnSays,
  unbendSays,
} from '@/square-up/says'
import { lateSays } from '@/ways/words'

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
  it('frame tells how much of the page goes out', () => {
    const frame = (visible: number[], zoom: number) =>
      frameSays({ visible, chain: chain({ frame: { on: true, zoom, x: 0.5, y: 0.5 } }) } as SquareUpView)
    expect(frame([0, 0, 1, 1], 1)).toBe('The whole page')
    expect(frame([0, 0.25, 1, 0.75], 2)).toContain('50% of the page at 200%')
  })
  it('where a shadow lies', () => {
    expect(spotSays([0.9, 0.9])).toBe('lower right')
    expect(spotSays([0.5, 0.5])).toBe('middle')
    expect(spotSays([0.1, 0.5])).toBe('middle left')
  })
  it('light and lens', () => {
    const light = { evenness: 0.4, shadow: [0.9, 0.1], clipped: 0, clipped_at: null }
    expect(lightSays({ light } as unknown as SquareUpView)).toContain('shadow upper right')
    expect(lightSays({ light: null } as SquareUpView)).toContain('waits')
    const distort = (distortion: number, distortion_percent: number) =>
      unbendSays(
        {
          chain: chain({ unbend: { on: true, distortion, set: 'auto' } }),
          distortion_percent,
        } as SquareUpView,
        0.0005,
      )
    expect(distort(0, 0)).toContain('Straight')
    expect(distort(-0.04, -3.2)).toBe('Wide lens, 3.2% at the edge')
  })
  it('square tells the measured tilt, or nothing that was not measured', () => {
    const tilted = (tilt_deg: number | null, follow = false) =>
      squareSays({ readings: { tilt_deg }, follow: 'waiting', chain: { square: { follow } } } as SquareUpView)
    expect(tilted(23.7)).toBe('Seen 24° off straight above. Fixed.')
    expect(tilted(0.4, true)).toContain('a clear view')
    expect(tilted(null)).toContain('Four corners to a rectangle')
  })
})

describe('how late a way is', () => {
  it('never says none', () => {
    expect(lateSays(14)).toBe('<0.1 s')
    expect(lateSays(60)).toBe('0.1 s')
    expect(lateSays(240)).toBe('0.2 s')
  })
})
