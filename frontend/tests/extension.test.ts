import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { fitted, idFor, Overconstrained, resolveVideo, strings } from '../../extension/src/constraints'
import { Line, type Listener } from '../../extension/src/line'

const HAS = { deviceId: 'd', groupId: 'g', maxWidth: 1920, maxHeight: 1080, maxFps: 30 }
const FIRST = { width: { ideal: 1280 }, height: { ideal: 720 } }
const resolve = (wanted: MediaTrackConstraints) => {
  const found = resolveVideo({ ...FIRST, ...wanted }, HAS)
  return found instanceof Overconstrained ? found.constraint : [found.width, found.height, found.frameRate]
}

describe('which picture constraints ask for', () => {
  it.each<[MediaTrackConstraints, number[]]>([
    [{}, [1280, 720, 30]],
    [{ width: 640, height: 360 }, [640, 360, 30]],
    [{ width: { ideal: 640 }, height: { ideal: 480 } }, [640, 360, 30]], // whole, never cut off
    [{ width: { exact: 640 }, height: { exact: 480 } }, [640, 480, 30]], // demanded: bars
    [{ width: { max: 640 } }, [640, 360, 30]],
    [{ width: { min: 1600 } }, [1600, 720, 30]],
    [{ width: { ideal: 9999 }, height: { ideal: 9999 } }, [1920, 1080, 30]],
    [{ frameRate: { max: 10 } }, [1280, 720, 10]],
    [{ frameRate: { ideal: 15 } }, [1280, 720, 15]],
    [{ frameRate: { ideal: 60 } }, [1280, 720, 30]],
    [{ width: 320, height: 180, frameRate: { exact: 10 } }, [320, 180, 10]],
    [{ advanced: [{ width: 1920, height: 1080 }, { frameRate: 15 }] }, [1920, 1080, 15]],
    [{ advanced: [{ width: 5000 }] }, [1280, 720, 30]],
  ])('%j is met', (wanted, settings) => expect(resolve(wanted)).toEqual(settings))

  it.each<[MediaTrackConstraints, string]>([
    [{ width: { exact: 5000 } }, 'width'],
    [{ height: { min: 1081 } }, 'height'],
    [{ width: { max: 8 } }, 'width'],
    [{ width: { min: 900, max: 800 } }, 'width'],
    [{ frameRate: { min: 60 } }, 'frameRate'],
    [{ frameRate: { exact: 0 } }, 'frameRate'],
    [{ facingMode: { exact: 'environment' } }, 'facingMode'],
    [{ deviceId: { exact: 'other' } }, 'deviceId'],
    [{ groupId: { exact: ['x', 'y'] } }, 'groupId'],
    [{ aspectRatio: { min: 5000 } }, 'aspectRatio'],
  ])('%j is overconstrained by %s', (wanted, name) => expect(resolve(wanted)).toBe(name))

  it('reads names given in any way', () => {
    expect(strings('a')).toEqual({ exact: [], ideal: ['a'] })
    expect(strings(['a', 'b'])).toEqual({ exact: [], ideal: ['a', 'b'] })
    expect(strings({ exact: 'a' })).toEqual({ exact: ['a'], ideal: [] })
    expect(strings(undefined)).toEqual({ exact: [], ideal: [] })
  })
  it('places a picture whole and in the middle', () => {
    expect(fitted({ width: 1280, height: 720 }, { width: 640, height: 480 })).toEqual([0, 60, 640, 360])
    expect(fitted({ width: 1280, height: 720 }, { width: 320, height: 180 })).toEqual([0, 0, 320, 180])
  })
  it('names devices the same for one site and otherwise for another', () => {
    const id = idFor('https://calls.example.org', 'camera')
    expect(id).toMatch(/^[0-9a-f]{64}$/)
    expect(idFor('https://calls.example.org', 'camera')).toBe(id)
    expect(idFor('https://calls.example.com', 'camera')).not.toBe(id)
    expect(idFor('https://calls.example.org', 'microphone')).not.toBe(id)
  })
})

describe("a page's line to Cartouche", () => {
  const want = { width: 640, height: 360, sound: false }
  const FIRST_SAID = { do: 'want', want: { ...want, jpeg: false } }
  const listener = (): Listener => ({ want: () => want, state: () => {}, picture: () => {}, sound: () => {} })
  const heard = () => {
    const { port1, port2 } = new MessageChannel()
    const said: unknown[] = []
    port2.onmessage = ({ data }) => said.push(data)
    return { port: port1, said }
  }
  const settled = () => new Promise((resolve) => setTimeout(resolve, 20))
  const tried = () => {
    const asked: (number | 'shut')[] = []
    const line = new Line(
      (number) => asked.push(number),
      () => asked.push('shut'),
    )
    return { line, asked }
  }

  beforeEach(
    () => void vi.stubGlobal('VideoDecoder', { isConfigSupported: async () => ({ supported: true }) }),
  )
  afterEach(() => void vi.unstubAllGlobals())

  it('ends with its last track', async () => {
    const { line, asked } = tried()
    const [track, { port, said }] = [listener(), heard()]
    line.add(track)
    await settled()
    line.take(port, 1)
    await settled()
    line.remove(track)
    expect(said).toEqual([FIRST_SAID])
    expect(asked).toEqual([1, 'shut'])
  })
  it('that was stopped before it came is not taken, and the one after it is', async () => {
    const { line, asked } = tried()
    const [first, early, late] = [listener(), heard(), heard()]
    line.add(first)
    await settled()
    line.remove(first)
    line.add(listener())
    line.take(early.port, 1)
    await settled()
    expect(asked).toEqual([1, 'shut', 3])
    line.take(late.port, 3)
    await settled()
    expect(early.said).toEqual([])
    expect(late.said).toEqual([FIRST_SAID])
  })
  it('is asked for once by two tracks', async () => {
    const { line, asked } = tried()
    line.add(listener())
    line.add(listener())
    await settled()
    expect(asked).toEqual([1])
  })
  it('goes on by the port that comes again where the page took its frame away', async () => {
    const { line } = tried()
    const [before, after] = [heard(), heard()]
    line.add(listener())
    await settled()
    line.take(before.port, 1)
    line.take(after.port, 1)
    await settled()
    expect(after.said).toEqual([FIRST_SAID])
  })
})
