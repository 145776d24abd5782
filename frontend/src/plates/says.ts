import type { Device } from '@/api/client'
import type { Content, Place } from './plates'

/** What a place holds, in the teacher's words. */
export function contentSays(content: Content, devices: Device[]): string {
  switch (content.kind) {
    case 'role':
      return content.role === 'page' ? 'Page' : 'Face'
    case 'feed':
      return devices.find((one) => one.id === content.feed_id)?.name ?? 'A device that is not in this kit'
    case 'colour':
      return 'Plain colour'
    case 'caption':
      return content.name ? `Caption “${content.name}”` : 'Caption'
    default:
      return 'Frame'
  }
}

/** What a place can be given to show, for a list; and the content that a choice stands for. */
export function pictureChoices(devices: Device[]) {
  return [
    { value: 'role:page', label: 'Whatever serves as page' },
    { value: 'role:face', label: 'Whatever serves as face' },
    ...devices.map((one) => ({ value: `feed:${one.id}`, label: one.name })),
  ]
}
export function chosenContent(value: string): Content | null {
  const [kind, id] = value.split(/:(.*)/)
  if (!id) return null
  return kind === 'role' ? { kind: 'role', role: id as 'page' | 'face' } : { kind: 'feed', feed_id: id }
}

export function shape(place: Place): 'square' | 'rounded' | 'round' {
  if (place.round) return 'round'
  return place.rounding > 0 ? 'rounded' : 'square'
}

export const ROUNDING = 0.03

export function shaped(next: 'square' | 'rounded' | 'round'): Partial<Place> {
  return { round: next === 'round', rounding: next === 'rounded' ? ROUNDING : 0 }
}

export const LAYOUTS = [
  { value: '', label: 'Laid by hand' },
  { value: 'page-and-face', label: 'Page and face' },
  { value: 'side-by-side', label: 'Side by side' },
  { value: 'stacked', label: 'One above the other' },
  { value: 'four', label: 'Two by two' },
  { value: 'slides-and-face', label: 'Slides, and a space for the face' },
  { value: 'band-and-face', label: 'Reading band and face' },
]

export const AS_IT_COMES = { even: 0, balanced: false, brightness: 0, contrast: 0, warmth: 0, saturation: 0, framed: false } // prettier-ignore

/** A new place for this content, where it is seen at once. */
export function newPlace(content: Content): Place {
  const base = { fit: 'fit' as const, focus: { x: 0.5, y: 0.5 }, rounding: 0, round: false, border: null, shadow: false, off_writing: false, adorns: false, behind: { way: 'as it is' as const, colour: '#E2F0E9', feed_id: '', light: 0 }, grade: AS_IT_COMES } // prettier-ignore
  switch (content.kind) {
    case 'caption':
      return { ...base, content, rect: { x: 0.03, y: 0.82, width: 0.5, height: 0.14 }, adorns: true }
    case 'frame':
      return { ...base, content, rect: { x: 0, y: 0, width: 1, height: 1 }, rounding: 0.03, adorns: true }
    case 'colour':
      return { ...base, content, rect: { x: 0.3, y: 0.3, width: 0.4, height: 0.4 } }
    default: {
      const face = content.kind === 'role' && content.role === 'face'
      return {
        ...base,
        content,
        rect: face
          ? { x: 0.7, y: 0.06, width: 0.26, height: 0.36 }
          : { x: 0.1, y: 0.1, width: 0.6, height: 0.8 },
        fit: face ? 'fill' : 'fit',
        rounding: face ? ROUNDING : 0,
      }
    }
  }
}
