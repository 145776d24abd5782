/** Rectangles in shares of the outgoing picture, and the lines that they snap to. */
export interface Box {
  x: number
  y: number
  width: number
  height: number
}
export interface Guide {
  axis: 'x' | 'y'
  at: number
}
export type Handle = 'move' | 'n' | 's' | 'e' | 'w' | 'ne' | 'nw' | 'se' | 'sw'

export const NEAR = 0.012
export const MIN_SHARE = 0.05
export const MARGIN = 0.025
const THIRDS = [0, 1 / 3, 1 / 2, 2 / 3, 1]

/** Where edges may snap along one axis: borders, margins, halves, thirds, and the other places' edges and middles. */
export function stops(axis: 'x' | 'y', others: Box[]): number[] {
  const margin = axis === 'x' ? (MARGIN * 9) / 16 : MARGIN
  const made = [...THIRDS, margin, 1 - margin]
  for (const box of others) {
    const [start, length] = axis === 'x' ? [box.x, box.width] : [box.y, box.height]
    made.push(start, start + length / 2, start + length)
  }
  return made
}

interface Hit {
  shift: number
  at: number
}

/** The smallest shift that brings one of the points onto a stop; null when none is near. */
function nearest(points: number[], to: number[]): Hit | null {
  let best: Hit | null = null
  for (const point of points)
    for (const at of to) {
      const shift = at - point
      if (Math.abs(shift) <= NEAR && (!best || Math.abs(shift) < Math.abs(best.shift))) best = { shift, at }
    }
  return best
}

const within = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high)

/** A place moved or resized by a hand, inside the picture, snapped to what is near; and the lines it snapped to. */
export function dragged(
  before: Box,
  handle: Handle,
  dx: number,
  dy: number,
  others: Box[],
  free = false,
): { box: Box; guides: Guide[] } {
  const guides: Guide[] = []
  const axes = (['x', 'y'] as const).map((axis) => {
    const [start, length, by] = axis === 'x' ? [before.x, before.width, dx] : [before.y, before.height, dy]
    const low = handle === 'move' ? 'both' : handle.includes(axis === 'x' ? 'w' : 'n')
    const high = handle === 'move' ? 'both' : handle.includes(axis === 'x' ? 'e' : 's')
    if (!low && !high) return [start, length] as const
    const to = stops(axis, others)
    if (handle === 'move') {
      const moved = within(start + by, 0, 1 - length)
      const hit = free ? null : nearest([moved, moved + length / 2, moved + length], to)
      if (hit) guides.push({ axis, at: hit.at })
      return [within(moved + (hit?.shift ?? 0), 0, 1 - length), length] as const
    }
    const edge = low ? start : start + length
    const [least, most] = low ? [0, start + length - MIN_SHARE] : [start + MIN_SHARE, 1]
    const pulled = within(edge + by, least, most)
    const hit = free ? null : nearest([pulled], to)
    const end = within(pulled + (hit?.shift ?? 0), least, most)
    if (hit) guides.push({ axis, at: hit.at })
    return low ? ([end, start + length - end] as const) : ([start, end - start] as const)
  })
  const [[x, width], [y, height]] = axes as unknown as [[number, number], [number, number]]
  return { box: { x, y, width, height }, guides }
}

/** Moved by a key, by a hundredth or by a pixel. */
export function nudged(box: Box, key: string, step: number, resize: boolean): Box {
  const dx = key === 'ArrowLeft' ? -step : key === 'ArrowRight' ? step : 0
  const dy = key === 'ArrowUp' ? -step : key === 'ArrowDown' ? step : 0
  return dragged(box, resize ? 'se' : 'move', dx, dy, [], true).box
}
