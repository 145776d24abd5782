import type { Schemas } from '@/api/client'

export const WISHES: { value: Schemas['SizeWish']['wish']; label: string }[] = [
  { value: 'auto', label: 'By the page' },
  { value: 'quick', label: 'Quick' },
  { value: 'sharp', label: 'Sharp' },
]

export function measured(size: Schemas['SizeView']): string {
  if (size.fps === null || size.fps === undefined) return 'not tried yet'
  return `${Math.round(size.fps)} frames/s, ${Math.round(size.delay_ms ?? 0)} ms`
}
