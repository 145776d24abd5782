import type { Schemas } from '@/api/client'

export type Node = Schemas['NodeView']
export type Line = Schemas['LineView']

export interface Placed extends Node {
  x: number
  y: number
}
export interface Room {
  name: string
  y: number
  height: number
}
export interface Way extends Line {
  path: string
  air: boolean
}
export interface Drawing {
  width: number
  height: number
  rooms: Room[]
  nodes: Placed[]
  ways: Way[]
}

export const WIDTH = 520
const ROW = 34
const HEAD = 26
const GAP = 12
const INSIDE = 30 // left end of what stands in a room
export const ROOM_WIDTH = 262
const JOIN_X = 352
const LEARNERS_X = 478
const ORDER = ['person', 'microphone', 'loudspeaker']
export const WORN = 'Worn'

/** Rooms with what stands in them at the left, the joins of the call in the middle, learners at the right. */
export function draw(nodes: Node[], lines: Line[]): Drawing {
  const inRooms = nodes.filter((one) => ORDER.includes(one.kind))
  const names = [...new Set(inRooms.map((one) => one.room ?? WORN))]
  const placed: Placed[] = []
  const rooms: Room[] = []
  let y = 4
  for (const name of names) {
    const inside = inRooms
      .filter((one) => (one.room ?? WORN) === name)
      .sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind))
    const height = HEAD + ROW * inside.length + 8
    inside.forEach((one, at) => placed.push({ ...one, x: INSIDE, y: y + HEAD + ROW * at + ROW / 2 }))
    rooms.push({ name, y, height })
    y += height + GAP
  }
  const clips = nodes.filter((one) => one.kind === 'clip')
  clips.forEach((one, at) => placed.push({ ...one, x: INSIDE, y: y + ROW * at + ROW / 2 }))
  const height = Math.max(y + ROW * clips.length, 120)
  const spread = (kind: string, x: number) => {
    const all = nodes.filter((one) => one.kind === kind)
    all.forEach((one, at) => placed.push({ ...one, x, y: (height * (at + 1)) / (all.length + 1) }))
  }
  spread('join', JOIN_X)
  spread('learners', LEARNERS_X)
  const by = new Map(placed.map((one) => [one.id, one]))
  const ways = lines.flatMap((line) => {
    const start = by.get(line.start)
    const end = by.get(line.end)
    return start && end ? [{ ...line, ...way(start, end) }] : []
  })
  return { width: WIDTH, height, rooms, nodes: placed, ways }
}

/** Through the air by the left side of the room; by wire from right edge to left edge; back from the call below. */
function way(start: Placed, end: Placed) {
  const air = ORDER.includes(start.kind) && ORDER.includes(end.kind)
  if (air) {
    const out = INSIDE - 14 - Math.min(12, Math.abs(start.y - end.y) / 12)
    return {
      air,
      path: `M ${INSIDE - 8} ${start.y} C ${out} ${start.y} ${out} ${end.y} ${INSIDE - 8} ${end.y}`,
    }
  }
  const right = (one: Placed) =>
    ORDER.includes(one.kind) || one.kind === 'clip' ? ROOM_WIDTH - 6 : one.x + 26
  const left = (one: Placed) => one.x - (one.kind === 'learners' ? 22 : 26)
  if (end.kind === 'loudspeaker') {
    const from = start.x - (start.kind === 'learners' ? 22 : 26)
    const x = ROOM_WIDTH - 6
    const y = end.y + 7
    return { air, path: `M ${from} ${start.y + 7} C ${from - 40} ${start.y + 20} ${x + 40} ${y} ${x} ${y}` }
  }
  const [a, b] = [right(start), left(end)]
  const middle = (a + b) / 2
  return { air, path: `M ${a} ${start.y} C ${middle} ${start.y} ${middle} ${end.y} ${b} ${end.y}` }
}
