/** Two fingers on the picture: the zoom they ask for, from where it stood when the second one came down. */
export class Pinch {
  private readonly fingers = new Map<number, { x: number; y: number }>()
  private from: { spread: number; zoom: number } | null = null

  constructor(
    private readonly span: () => { min: number; max: number } | undefined,
    private readonly zoom: () => number,
    private readonly set: (zoom: number) => void,
  ) {}

  down(event: { pointerId: number; clientX: number; clientY: number }) {
    this.fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
    this.from = this.fingers.size === 2 ? { spread: this.spread(), zoom: this.zoom() } : null
  }

  move(event: { pointerId: number; clientX: number; clientY: number }) {
    const span = this.span()
    if (!this.fingers.has(event.pointerId)) return
    this.fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
    if (!this.from || !span) return
    const wanted = (this.from.zoom * this.spread()) / this.from.spread
    this.set(Math.min(span.max, Math.max(span.min, wanted)))
  }

  up(event: { pointerId: number }) {
    this.fingers.delete(event.pointerId)
    this.from = null
  }

  private spread(): number {
    const [a, b] = [...this.fingers.values()]
    return a && b ? Math.max(1, Math.hypot(a.x - b.x, a.y - b.y)) : 1
  }
}
