import type { Way } from './ways'

export const SOUND: Record<string, string> = {
  'in step': 'Sound in step',
  shared: 'Tab’s sound, a little late',
  apart: 'Call’s own mic, ahead of the picture',
  none: 'No sound',
}

/** How many learners see the face, in words. */
export function faceSays(way: Way): string {
  const learners = way.gets.filter((one) => !one.is_teacher)
  const inside = learners.filter((one) => one.face === 'in the picture').length
  if (inside === learners.length) return 'In the picture'
  const small = learners.filter((one) => one.face === 'a small tile').length
  if (small === learners.length) return 'A small tile'
  return learners.some((one) => one.face !== 'not seen') ? 'A tile beside' : 'Not seen'
}

export function lateSays(ms: number): string {
  return ms < 50 ? '<0.1 s' : `${(ms / 1000).toFixed(1)} s`
}

export function metres(mm: number): string {
  return mm < 1000 ? `${Math.round(mm / 10)} cm` : `${(mm / 1000).toFixed(1)} m`
}
