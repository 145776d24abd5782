import type { Plate } from '@/api/client'
import type { Place, PlateView } from './plates'
import type { Box } from './snap'

const rounded = (value: number) => Math.round(value * 1e5) / 1e5

/** The plate as it is laid now, as if by hand: what a hand moves stays where it is put. */
export function byHand(one: PlateView): Plate {
  if (!one.plate.layout) return one.plate
  const places = one.plate.places.map((place, at) => ({ ...place, rect: one.rects[at] ?? place.rect }))
  return { ...one.plate, places, layout: null }
}

/** One place moved or resized by hand. */
export function laid(one: PlateView, at: number, box: Box): Plate {
  const base = byHand(one)
  const rect = {
    x: rounded(box.x),
    y: rounded(box.y),
    width: rounded(box.width),
    height: rounded(box.height),
  }
  return { ...base, places: base.places.map((place, number) => (number === at ? { ...place, rect } : place)) }
}

export function withPlace(plate: Plate, at: number, more: Partial<Place>): Plate {
  return { ...plate, places: plate.places.map((one, number) => (number === at ? { ...one, ...more } : one)) }
}

/** One place one step nearer or farther back; null at either end. */
export function restacked(one: PlateView, at: number, by: 1 | -1): Plate | null {
  const base = byHand(one)
  const to = at + by
  if (to < 0 || to >= base.places.length) return null
  const places = [...base.places]
  places.splice(to, 0, ...places.splice(at, 1))
  return { ...base, places }
}

/** Where places lie until the server has laid the plate: laid by hand where they are put, else as they were. */
export function rects(before: PlateView, next: Plate): PlateView['rects'] {
  if (next.layout && before.rects.length === next.places.length) return before.rects
  return next.places.map((place) => place.rect)
}
