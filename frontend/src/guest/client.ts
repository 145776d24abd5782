import createClient from 'openapi-fetch'
import type { components, paths } from '@/api/guest-schema'
import { base } from '@/shared/at'

export type GuestSchemas = components['schemas']
export type Report = GuestSchemas['Report']
export type GuestState = GuestSchemas['GuestState']
export type Control = keyof GuestState['orders']['settings']

const KEPT = 'cartouche-guest'
const ANSWERS_WITHIN_MS = 6000

const api = createClient<paths>({
  baseUrl: location.origin + base,
  fetch: (request) => globalThis.fetch(request, { signal: AbortSignal.timeout(ANSWERS_WITHIN_MS) }),
})

/** Not known here any more: trying again would change nothing. */
export class Refused extends Error {}

/** This device's token: it opens its own feed and nothing else, and stays on the device. */
export const token = {
  get: () => localStorage.getItem(KEPT),
  keep: (value: string) => localStorage.setItem(KEPT, value),
  forget: () => localStorage.removeItem(KEPT),
}

const bearer = () => ({ Authorization: `Bearer ${token.get() ?? ''}` })

async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T | undefined> {
  const { data, error, response } = await call
  if (response.ok) return data
  const detail = (error as { detail?: unknown } | undefined)?.detail
  const sentence = typeof detail === 'string' ? detail : 'The teacher’s computer could not answer.'
  throw response.status === 401 ? new Refused(sentence) : new Error(sentence)
}

/** What went wrong, in words: the server's own, or that it does not answer. */
export function sentenceOf(error: unknown): string {
  const { name, message } = error as Error
  return name === 'TypeError' || name === 'TimeoutError'
    ? 'The teacher’s computer does not answer. Is this phone in the same Wi-Fi?'
    : message
}

export async function enter(code: string): Promise<void> {
  const what = Math.min(screen.width, screen.height) >= 600 ? 'Tablet' : 'Phone'
  const entered = await answer(api.POST('/api/guest/enter', { body: { code, what } }))
  token.keep(entered!.token)
}

export async function report(body: Report): Promise<GuestState> {
  return (await answer(api.POST('/api/guest/report', { body, headers: bearer() })))!
}

export async function leave(): Promise<void> {
  await answer(api.POST('/api/guest/leave', { headers: bearer() }))
}

/** An offer out, the answer back (WHIP, RFC 9725). */
export async function offer(sdp: string): Promise<string> {
  const headers = { ...bearer(), 'Content-Type': 'application/sdp' }
  const call = api.POST('/whip', {
    headers,
    body: sdp as never,
    bodySerializer: (body: unknown) => body as string,
    parseAs: 'text',
  })
  return (await answer(call)) as string
}
