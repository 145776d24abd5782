import type { Chain, SquareUpView } from '@/api/client'

export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits)
  if (Number(text) === 0) return text
  return `${value > 0 ? '+' : '−'}${text}`
}

export function squareSays(view: SquareUpView): string {
  const tilt = view.readings?.tilt_deg
  if (tilt === null || tilt === undefined) return 'Four corners to a rectangle'
  return tilt < 2 ? 'Seen from straight above' : `Seen ${Math.round(tilt)}° off straight above`
}

export function turnSays(chain: Chain): string {
  const quarters =
    ['Not turned', 'A quarter to the right', 'Half a turn', 'A quarter to the left'][chain.turn.quarters] ??
    ''
  return chain.turn.fine_deg ? `${quarters}, ${signed(chain.turn.fine_deg, 1)}°` : quarters
}

export function mirrorSays(chain: Chain): string {
  const { left_right: leftRight, top_bottom: topBottom } = chain.mirror
  if (leftRight && topBottom) return 'Flipped twice: that is half a turn'
  if (leftRight) return 'Flipped left–right'
  return topBottom ? 'Flipped top–bottom' : 'Not flipped'
}

export function frameSays(chain: Chain): string {
  return chain.frame.zoom <= 1.001 ? 'The whole page' : 'A part of it. Drag the page to move'
}
