/** A phone as remote: told how things stand, and sending each press until it is answered, under one name, so that it counts once. */
import type { ActionName } from '@/teach/actions'
import type { Schemas } from '@/api/client'
import { at } from '@/shared/at'

const KEPT = 'cartouche-remote'
const CAMERA = 'cartouche-guest' // a phone that is a camera may press too, where the teacher allows it
const AGAIN_MS = 700
const ANSWER_MS = 4000

export interface RemoteView {
  version: number
  tools: Schemas['ToolsView']
  plates: { id: string; name: string }[]
  plate_on: string | null
  state: string
  wrong: boolean
  microphone: string | null
}
export class NotInvited extends Error {}

export const token = {
  get: () => localStorage.getItem(KEPT) ?? localStorage.getItem(CAMERA),
  keep: (value: string) => localStorage.setItem(KEPT, value),
  forget: () => localStorage.removeItem(KEPT),
}
export async function ask<T>(path: string, init: RequestInit = {}): Promise<T> {
  const response = await fetch(at(`/api/remote/${path}`), {
    ...init,
    headers: { 'Content-Type': 'application/json', Authorization: `Bearer ${token.get() ?? ''}` },
    signal: AbortSignal.timeout(ANSWER_MS),
  })
  const body = (await response.json().catch(() => null)) as (T & { detail?: string }) | null
  if (response.status === 401) throw new NotInvited(body?.detail ?? 'This phone is no remote here.')
  if (!response.ok) throw new Refused(body?.detail ?? 'The teacher’s computer could not answer.')
  return body as T
}
export class Refused extends Error {}

export async function enter(code: string): Promise<void> {
  token.forget()
  const entered = await ask<{ token: string }>('enter', {
    method: 'POST',
    body: JSON.stringify({ code, name: 'Remote' }),
  })
  token.keep(entered.token)
}

/** Sent again until it is answered: whether it arrived before the network went, nobody here can know. */
export async function press(
  action: ActionName,
  number: number | undefined,
  waits: (waiting: boolean) => void,
): Promise<RemoteView> {
  const body = JSON.stringify({ action, number: number ?? null, press: crypto.randomUUID() })
  for (;;) {
    try {
      const view = await ask<RemoteView>('do', { method: 'POST', body })
      waits(false)
      return view
    } catch (error) {
      if (error instanceof NotInvited || error instanceof Refused) {
        waits(false)
        throw error
      }
      waits(true)
      await new Promise((done) => setTimeout(done, AGAIN_MS))
    }
  }
}
