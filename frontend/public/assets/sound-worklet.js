/* Gathers what a microphone gives to blocks of 20 ms: the number of the first sample (8 bytes), then 16-bit samples. Runs on the
   browser's sound thread; the number counts samples of the device, so what is lost on the way is known. */
const BLOCK = 960
const HEADER = 8

class Blocks extends AudioWorkletProcessor {
  constructor() {
    super()
    this.begin()
  }

  begin() {
    this.bytes = new ArrayBuffer(HEADER + 2 * BLOCK)
    this.block = new Int16Array(this.bytes, HEADER)
    this.filled = 0
  }

  process(inputs) {
    const [left, right] = inputs[0] ?? []
    if (!left) return true
    for (let at = 0; at < left.length; at++) {
      const sample = right ? (left[at] + right[at]) / 2 : left[at]
      if (!this.filled) new DataView(this.bytes).setBigUint64(0, BigInt(currentFrame + at), true)
      this.block[this.filled++] = Math.max(-32768, Math.min(32767, Math.round(sample * 32768)))
      if (this.filled === BLOCK) {
        this.port.postMessage(this.bytes, [this.bytes])
        this.begin()
      }
    }
    return true
  }
}

registerProcessor('cartouche-blocks', Blocks)
