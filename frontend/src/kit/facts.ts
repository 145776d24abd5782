import type { Device, Schemas } from '@/api/client'

const WAYS: Record<Device['kind'], string> = {
  bench: '',
  camera: 'on this computer',
  guest: 'not here',
  window: 'from this browser',
  pages: 'file',
  slides: 'file',
  clip: 'file',
  stream: 'over the network',
}

/** How a device is connected. */
export function connection(device: Device, guest: Schemas['GuestView'] | undefined): string {
  if (device.kind !== 'guest') return WAYS[device.kind]
  if (!guest?.here) return WAYS.guest
  return guest.transport === 'websocket' ? 'over the network' : 'over the network'
}

/** What a device is. */
export function what(device: Device): string {
  if (device.kind === 'stream') return device.source.replace(/\/\/[^/@]*@/, '//')
  return device.label || 'Camera of this computer'
}

export function batteryWords(level: number, charging: boolean): string {
  return `Battery ${Math.round(100 * level)}%${charging ? ', charging' : ''}`
}

/** The microphone in the same housing, and how it stands. */
export function microphoneWords(device: Device): string | null {
  if (device.kind === 'guest' || device.microphone)
    return `Microphone: ${device.microphone || 'none allowed'}`
  return device.kind === 'camera' ? 'No microphone in it' : null
}
