/** What the parts of the extension say to each other. */

/** A page's line to Cartouche: what it wants, and what it is told. */
export interface Want {
  width: number // 0: no picture
  height: number
  sound: boolean
  jpeg: boolean // this browser cannot decode H.264
}
export type ToFrame =
  | { do: 'want'; want: Want }
  | { do: 'key' }
  | {
      do: 'arrives'
      width: number
      height: number
      fps: number
      delay_ms: number | null
      lips_ms: number | null // the picture later than the sound
    }
export type LineState = 'live' | 'absent' | 'unpaired' | 'refused'
export type FromFrame =
  | { tell: 'state'; state: LineState }
  | { tell: 'picture'; key: boolean; captured: number; data: ArrayBuffer }
  | { tell: 'jpeg'; captured: number; data: ArrayBuffer }
  | { tell: 'sound'; captured: number; data: ArrayBuffer }

/** Between the page's own world and ours. */
export type ToBridge = { do: 'ask' } | { do: 'line'; number: number } | { do: 'shut' }
export type FromBridge = { tell: 'permission'; permission: Permission } | { tell: 'line'; number: number } // with a port

export type Permission = 'unasked' | 'allowed' | 'denied'

/** A site that the teacher chose by the icon, by its origin. */
export interface Site {
  permission: Permission
}
export interface Kept {
  address: string
  key: string
  sites: Record<string, Site>
}
export const FIRST: Kept = {
  address: 'http://127.0.0.1:8427',
  key: '',
  sites: {},
}

export async function kept(): Promise<Kept> {
  return {
    ...FIRST,
    ...((await chrome.storage.local.get(['address', 'key', 'sites'])) as Partial<Kept>),
  }
}

export async function keepSite(origin: string, site: Site | null) {
  const { sites } = await kept()
  const rest = Object.fromEntries(Object.entries(sites).filter(([known]) => known !== origin))
  await chrome.storage.local.set({
    sites: site ? { ...rest, [origin]: site } : rest,
  })
}

export const HELLO = 'cartouche-extension'
