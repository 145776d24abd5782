/** Which picture a page's constraints ask for (W3C Media Capture and Streams, section 11: SelectSettings), as pure functions. */

export interface Capability {
  deviceId: string
  groupId: string
  maxWidth: number
  maxHeight: number
  maxFps: number
}
export interface Settings {
  width: number
  height: number
  frameRate: number
}
export interface Range {
  min?: number
  max?: number
  exact?: number
  ideal?: number
}
export class Overconstrained {
  constructor(readonly constraint: string) {}
}
type Numbers = 'width' | 'height' | 'frameRate' | 'aspectRatio'
export type Wanted = MediaTrackConstraints | boolean | undefined

const MIN = 16
const FITS_WITHIN = 0.01 // of an aspect

export function range(value: unknown): Range {
  if (typeof value === 'number') return { ideal: value }
  return value && typeof value === 'object' ? (value as Range) : {}
}

/** Of a DOMString constraint: what it must be, and what it would like. */
export function strings(value: unknown): { exact: string[]; ideal: string[] } {
  const list = (one: unknown) =>
    Array.isArray(one) ? one.map(String) : one === undefined ? [] : [String(one)]
  if (typeof value === 'string' || Array.isArray(value)) return { exact: [], ideal: list(value) }
  const { exact, ideal } = (value ?? {}) as {
    exact?: unknown
    ideal?: unknown
  }
  return { exact: list(exact), ideal: list(ideal) }
}

/** What a camera of this capability gives; the name of the first constraint that it cannot meet. */
export function resolveVideo(wanted: MediaTrackConstraints, has: Capability): Settings | Overconstrained {
  const failed = refusal(wanted, has)
  if (failed) return failed
  let all = wanted
  for (const more of wanted.advanced ?? []) {
    const both = { ...all, ...exactly(more) }
    if (refusal(both, has) === null && matches(sized(both, has), both)) all = both
  }
  return sized(all, has)
}

/** Advanced constraints are all or nothing: bare values count as exact. */
function exactly(more: MediaTrackConstraintSet): MediaTrackConstraints {
  return Object.fromEntries(
    Object.entries(more).map(([name, value]) => [
      name,
      typeof value === 'number' || typeof value === 'string' ? { exact: value } : value,
    ]),
  )
}

function refusal(wanted: MediaTrackConstraints, has: Capability): Overconstrained | null {
  const bounds: Record<Numbers, [number, number]> = {
    width: [MIN, has.maxWidth],
    height: [MIN, has.maxHeight],
    frameRate: [1, has.maxFps],
    aspectRatio: [MIN / has.maxHeight, has.maxWidth / MIN],
  }
  for (const name of ['width', 'height', 'frameRate', 'aspectRatio'] as const) {
    const { min, max, exact } = range(wanted[name])
    const [low, high] = bounds[name]
    const least = Math.max(exact ?? -Infinity, min ?? -Infinity)
    const most = Math.min(exact ?? Infinity, max ?? Infinity)
    if (least > high || most < low || least > most) return new Overconstrained(name)
  }
  if (strings(wanted.facingMode).exact.length) return new Overconstrained('facingMode')
  for (const name of ['deviceId', 'groupId'] as const) {
    const { exact } = strings(wanted[name])
    if (exact.length && !exact.includes(has[name])) return new Overconstrained(name)
  }
  return null
}

function sized(wanted: MediaTrackConstraints, has: Capability): Settings {
  const aspect = has.maxWidth / has.maxHeight
  const [width, height, rate] = [range(wanted.width), range(wanted.height), range(wanted.frameRate)]
  const frameRate = held(rate.exact ?? rate.ideal ?? has.maxFps, rate, 1, has.maxFps)
  if (fixed(width) && fixed(height))
    // both are demanded: bars fill what the picture does not
    return {
      width: held(target(width)!, width, MIN, has.maxWidth),
      height: held(target(height)!, height, MIN, has.maxHeight),
      frameRate,
    }
  // else the whole picture, as large as is asked for: page and face are never cut off
  const wide = held(target(width) ?? has.maxWidth, width, MIN, has.maxWidth)
  const high = held(target(height) ?? has.maxHeight, height, MIN, has.maxHeight)
  const scale = Math.min(wide / has.maxWidth, high / has.maxHeight)
  const whole = {
    width: even(scale * has.maxWidth),
    height: even((scale * has.maxWidth) / aspect),
  }
  return {
    width: held(whole.width, width, MIN, has.maxWidth),
    height: held(whole.height, height, MIN, has.maxHeight),
    frameRate,
  }
}

function matches(found: Settings, wanted: MediaTrackConstraints): boolean {
  return (['width', 'height', 'frameRate'] as const).every((name) => {
    const { exact } = range(wanted[name])
    return exact === undefined || Math.abs(found[name] / exact - 1) < FITS_WITHIN
  })
}

const fixed = (one: Range) => one.exact !== undefined || (one.min !== undefined && one.min === one.max)
const target = (one: Range) => one.exact ?? (fixed(one) ? one.min : one.ideal)
const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

function held(value: number, { min, max, exact }: Range, low: number, high: number): number {
  const within = Math.min(Math.max(value, min ?? -Infinity, low), max ?? Infinity, high)
  return exact ?? within
}

/** Where a picture of one size lies, whole, in one of another: left, top, width, height. */
export function fitted(
  from: { width: number; height: number },
  to: { width: number; height: number },
): [number, number, number, number] {
  const scale = Math.min(to.width / from.width, to.height / from.height)
  const [width, height] = [Math.round(from.width * scale), Math.round(from.height * scale)]
  return [Math.round((to.width - width) / 2), Math.round((to.height - height) / 2), width, height]
}

/** 64 hexadecimal digits that are the same for one site each time, and others for another site: as browsers name devices. */
export function idFor(origin: string, what: string): string {
  let digits = ''
  for (let part = 0; part < 8; part += 1) {
    let sum = 0x811c9dc5 ^ part // FNV-1a
    for (const sign of `${what} ${origin} ${part}`) sum = Math.imul(sum ^ sign.codePointAt(0)!, 0x01000193)
    digits += (sum >>> 0).toString(16).padStart(8, '0')
  }
  return digits
}
