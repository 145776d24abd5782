/* Gathers what a microphone gives to blocks of 20 ms of 16-bit samples. Runs on the browser's sound thread. */
const BLOCK = 960

class Blocks extends AudioWorkletProcessor {
  constructor() {
    super()
    this.block = new Int16Array(BLOCK)
    this.filled = 0
  }

  process(inputs) {
    const [left, right] = inputs[0] ?? []
    if (!left) return true
    for (let at = 0; at < left.length; at++) {
      const sample = right ? (left[at] + right[at]) / 2 : left[at]
      this.block[this.filled++] = Math.max(-32768, Math.min(32767, Math.round(sample * 32768)))
      if (this.filled === BLOCK) {
        this.port.postMessage(this.block.buffer, [this.block.buffer])
        this.block = new Int16Array(BLOCK)
        this.filled = 0
      }
    }
    return true
  }
}

registerProcessor('cartouche-blocks', Blocks)
