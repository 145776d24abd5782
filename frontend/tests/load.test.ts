import { nextTick, ref } from 'vue'
import { describe, expect, it } from 'vitest'
import { useLoad } from '@/teach/load'

describe('a computer at its limit', () => {
  async function said(frames: number[], size: string) {
    const fps = ref(30)
    let clock = 0
    const sentence = useLoad(fps, ref(size), () => clock)
    for (const value of frames) {
      clock += 1500
      fps.value = value
      await nextTick()
    }
    return sentence.value
  }
  it('is said after a while, with what helps', async () => {
    expect(await said([12, 13, 12, 11], '1080p')).toContain('1280×720')
    expect(await said([12, 13, 12, 11], '720p')).toContain('close other programs')
  })
  it('is not said for a dip, nor once it has passed, nor while nothing is made', async () => {
    expect(await said([12, 13, 29, 12], '720p')).toBeNull()
    expect(await said([12, 13, 12, 11, 28], '720p')).toBeNull()
    expect(await said([0, 0.001, 0, 0, 0], '720p')).toBeNull()
  })
})
