import type { Chain, SquareUpView } from '@/api/client'

export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits)
  if (Number(text) === 0) return text
  return `${value > 0 ? '+' : '−'}${text}`
}

const FOLLOWING = {
  fixed: '',
  following: 'Following.',
  waiting: 'Waiting for a clear view.',
  lost: 'Page out of view: last position kept.',
}

export function squareSays(view: SquareUpView): string {
  const tilt = view.readings?.tilt_deg
  const seen =
    tilt === null || tilt === undefined
      ? 'Four corners to a rectangle.'
      : tilt < 2
        ? 'Seen from straight above.'
        : `Seen ${Math.round(tilt)}° off straight above.`
  if (!view.chain.square.follow) return `${seen} Fixed.`
  const pages = view.new_pages
    ? ` ${view.new_pages} new ${view.new_pages === 1 ? 'page' : 'pages'} so far.`
    : ''
  return `${seen} ${FOLLOWING[view.follow]}${pages}`
}

export function unbendSays(view: SquareUpView, straightBelow: number): string {
  const { distortion } = view.chain.unbend
  if (Math.abs(distortion) < straightBelow) return 'Straight lens: nothing to unbend'
  return `${distortion < 0 ? 'Wide lens' : 'Pincushion'}, ${Math.abs(view.distortion_percent).toFixed(1)}% at the edge`
}

/** Where on the page a spot lies, in words. */
export function spotSays(spot: readonly [number, number]): string {
  const [x, y] = spot
  const down = y < 0.33 ? 'upper' : y > 0.67 ? 'lower' : 'middle'
  const across = x < 0.33 ? 'left' : x > 0.67 ? 'right' : down === 'middle' ? '' : 'middle'
  return `${down} ${across}`.trim()
}

export function lightSays(view: SquareUpView): string {
  if (!view.light) return 'Paper to white; waits for bare paper'
  return view.light.shadow ? `Paper to white, shadow ${spotSays(view.light.shadow)} lifted` : 'Paper to white'
}

export function colourSays(chain: Chain): string {
  return chain.colour.set === 'auto' ? 'White as the paper is white' : 'By hand'
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

export function frameSays(view: SquareUpView): string {
  const [left, top, right, bottom] = view.visible ?? [0, 0, 1, 1]
  const seen = Math.round((right - left) * (bottom - top) * 100)
  return seen >= 99
    ? 'The whole page'
    : `Shows ${seen}% of the page at ${Math.round(view.chain.frame.zoom * 100)}%. [ and ] move along it.`
}

/** What the set-up card told, as one thing to do. */
export function cardSays(card: NonNullable<SquareUpView['card']>): string {
  if (card.covered.length)
    return `Set-up card read, though ${card.covered.join(', ')} was covered. Take it away.`
  if (!card.in_focus) return 'Set-up card read, but the picture is out of focus. Refocus, then read it again.'
  return 'Set-up card read. Take it away.'
}
