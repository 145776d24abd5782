import type { Report } from './client'

type Battery = NonNullable<Report['battery']>

/** Battery and charging, where this browser tells. */
export async function battery(): Promise<Battery | null> {
  const ask = (navigator as { getBattery?: () => Promise<Battery> }).getBattery
  if (!ask) return null
  const { level, charging } = await ask.call(navigator)
  return { level, charging }
}

/** Keeps the screen on while the page is seen. */
export class Awake {
  state: 'held' | 'missing' | 'refused' = 'missing'
  private lock: { release: () => Promise<void>; released: boolean } | null = null

  async hold(): Promise<void> {
    if (!navigator.wakeLock) return
    if (this.lock && !this.lock.released) return
    try {
      this.lock = await navigator.wakeLock.request('screen')
      this.state = 'held'
    } catch {
      this.state = 'refused'
    }
  }

  release() {
    void this.lock?.release()
    this.lock = null
  }
}

export const AWAKE_SENTENCES = {
  held: null,
  missing: 'This browser cannot keep the screen on. Set the screen to stay on for the lesson.',
  refused:
    'The phone may switch its screen off to save power. Plug it in, or set the screen to stay on for the lesson.',
}

/** Keep the picture lying or upright however the phone is tilted, where the browser can; a phone that looks straight down cannot tell. */
export async function holdWay(upright: boolean): Promise<void> {
  const orientation = screen.orientation as { lock?: (way: string) => Promise<void> } | undefined
  try {
    await document.documentElement.requestFullscreen?.()
    await orientation?.lock?.(upright ? 'portrait' : 'landscape')
  } catch {
    // without it the phone's own turning decides; the turn can be set on the computer
  }
}
