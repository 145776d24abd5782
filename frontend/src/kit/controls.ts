import type { Schemas } from '@/api/client'

export type Control = keyof Schemas['ControlChange']['settings'] & string
export type Spans = Record<string, { min: number; max: number; step?: number }>

export const CONTROL_WORDS: Record<string, string> = {
  zoom: 'Zoom',
  focusDistance: 'Focus',
  exposureCompensation: 'Exposure',
  exposureTime: 'Exposure',
  brightness: 'Brightness',
  torch: 'Light',
}

/** What a control's value means: zoom in times of its widest, exposure in stops, the rest in per cent of its span. */
export function valueWords(name: string, value: number, span: { min: number; max: number }): string {
  if (name === 'torch') return value ? 'on' : 'off'
  if (name === 'zoom') return `${(value / (span.min || 1)).toFixed(1)}×`
  if (name === 'exposureCompensation') return `${value > 0 ? '+' : ''}${value.toFixed(1)} EV`
  return `${Math.round((100 * (value - span.min)) / (span.max - span.min || 1))}%`
}
