interface Waiting<T> {
  run: () => Promise<T | undefined>
  drag: string | null
}

/**
 * What a screen asks of the server, one at a time and in order. Presses all run. Positions of one drag take each other's
 * place while they wait, so that the newest is sent next and the last one always.
 */
export class Commands<T> {
  private readonly waiting: Waiting<T>[] = []
  private running = false
  private closed = false

  /** answered: the result of a command that no other waits behind.  idle: after the last; failed: whether any was refused. */
  constructor(
    private readonly answered: (result: T) => void,
    private readonly idle: (failed: boolean) => void = () => {},
  ) {}

  get busy() {
    return this.running
  }

  press(run: () => Promise<T | undefined>) {
    return this.add({ run, drag: null })
  }

  /** drag: what is being dragged.  settled: the hand lets go here. */
  drag(drag: string, settled: boolean, run: () => Promise<T | undefined>) {
    if (this.waiting.at(-1)?.drag === drag) this.waiting.pop()
    return this.add({ run, drag: settled ? null : drag })
  }

  /** Nothing more is sent that has not been begun. */
  close() {
    this.closed = true
    this.waiting.length = 0
  }

  private async add(command: Waiting<T>) {
    if (this.closed) return
    this.waiting.push(command)
    if (this.running) return
    this.running = true
    let failed = false
    for (let next = this.waiting.shift(); next; next = this.waiting.shift()) {
      const result = await next.run().catch(() => undefined)
      failed ||= result === undefined
      if (result !== undefined && !this.waiting.length && !this.closed) this.answered(result)
    }
    this.running = false
    if (!this.closed) this.idle(failed)
  }
}
