import { describe, expect, it } from 'vitest'
import { fitted, idFor, Overconstrained, resolveVideo, strings } from '../../extension/src/constraints'

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
