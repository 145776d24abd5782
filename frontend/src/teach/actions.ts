import type { Schemas } from '@/api/client'

export type ActionName = Schemas['ActionView']['name']
type Part = Pick<Schemas['ToolsView'], 'actions'>

/** Which action a key does, by the teacher's own table; a digit is the plate's number. */
export function actionOf(tools: Part | null, key: string): { name: ActionName; number?: number } | null {
  const pressed = key.length === 1 ? key.toLowerCase() : key
  const found = tools?.actions.find((one) => one.keys.includes(pressed))
  if (!found) return null
  return found.name === 'plate' ? { name: 'plate', number: Number(pressed) } : { name: found.name }
}
