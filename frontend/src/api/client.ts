import createClient from 'openapi-fetch'
import type { components, paths } from './schema'
import { base } from '@/shared/at'
import { inOrder } from '@/shared/inOrder'

export type Schemas = components['schemas']
export type Chain = Schemas['Chain']
export type Device = Schemas['Device']
export type LiveView = Schemas['LiveView']
export type Plate = Schemas['Plate']
export type SquareUpView = Schemas['SquareUpView']
export type AudienceView = Schemas['AudienceView']
export type FeedView = Schemas['FeedView']

export const api = createClient<paths>({
  baseUrl: location.origin + base,
  fetch: inOrder,
})

const UNREACHED =
  'Cartouche does not answer. Is it still running? Start it again; everything you set is kept.'

/** The answer's data, or an Error whose message is the server's own sentence. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result
  try {
    result = await call
  } catch {
    throw new Error(UNREACHED)
  }
  if (result.response.ok) return result.data as T
  const detail = (result.error as { detail?: unknown } | undefined)?.detail
  throw new Error(typeof detail === 'string' ? detail : UNREACHED)
}
