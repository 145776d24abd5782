import { describe, expect, it } from 'vitest'
import { draw, WORN, type Line, type Node } from '@/sound/drawing'

const node = (id: string, kind: string, room: string | null = 'Here'): Node => ({
  id,
  kind,
  name: id,
  room,
  live: true,
})
const line = (start: string, end: string): Line => ({ start, end, measured: false, wrong: false })
const NODES = [
  node('loud', 'loudspeaker'),
  node('mic', 'microphone'),
  node('you', 'person'),
  node('headset', 'microphone', null),
  node('far', 'loudspeaker', 'Hall'),
  node('>pc', 'join', null),
  node('learners', 'learners', null),
]

describe('the drawing of who hears whom', () => {
  it('stands each in its room, people first, and overlaps nothing', () => {
    const { rooms, nodes, height } = draw(NODES, [])
    expect(rooms.map((room) => room.name).sort()).toEqual(['Hall', 'Here', WORN].sort())
    for (const [at, room] of rooms.entries())
      if (at) expect(room.y).toBeGreaterThanOrEqual(rooms[at - 1]!.y + rooms[at - 1]!.height)
    const here = nodes.filter((one) => one.room === 'Here').sort((a, b) => a.y - b.y)
    expect(here.map((one) => one.id)).toEqual(['you', 'mic', 'loud'])
    for (const one of nodes) expect(one.y).toBeLessThan(height)
  })

  it('draws a way for each line whose ends stand there, through the air or by wire', () => {
    const { ways } = draw(NODES, [line('you', 'mic'), line('mic', '>pc'), line('>pc', 'learners'), line('learners', 'loud'), line('mic', 'nobody')]) // prettier-ignore
    expect(ways.map((way) => way.air)).toEqual([true, false, false, false])
    for (const way of ways) expect(way.path).not.toContain('NaN')
  })

  it('is never empty', () => {
    expect(draw([], []).height).toBeGreaterThan(0)
  })
})
