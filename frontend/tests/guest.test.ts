import { describe, expect, it, vi } from 'vitest'
import { Pinch } from '@/guest/pinch'
import { guestSays } from '@/guest/says'
import type { GuestState } from '@/guest/client'
import { controlsOf, facingOf, refocus, set, troubleOf, wanted } from '@/shared/lens'
import { Pace } from '@/shared/pace'

const state = (more: Partial<GuestState> = {}) =>
  ({ serves: 'page', state: 'live', arrives: true, wanted: true, ...more }) as GuestState

describe('the one big word on the phone', () => {
  it('says that the page has arrived', () => {
    expect(guestSays('sending', true, state())).toMatchObject({
      kind: 'holds',
      words: 'Your page is at the teacher’s computer',
    })
    expect(guestSays('sending', true, state({ serves: 'face' })).words).toMatch(/^Your face is/)
    expect(guestSays('sending', true, state({ serves: null })).words).toMatch(/^Your picture is/)
  })
  it.each([
    ['denied', 'wrong', 'Try again'],
    ['busy', 'wrong', 'Try again'],
    ['none', 'wrong', 'Try again'],
    ['unable', 'wrong', 'Try again'],
    ['asking', 'look', null],
  ] as const)('%s says what to do', (phase, kind, press) => {
    const says = guestSays(phase, true, null)
    expect(says).toMatchObject({ kind, press })
    expect(says.sentence).toMatch(/\.$/)
  })
  it('says that it comes back by itself', () => {
    expect(guestSays('sending', false, state()).sentence).toContain('comes back by itself')
  })
  it('is ready while nobody looks, and never claims to have arrived then', () => {
    expect(guestSays('sending', true, state({ arrives: false, wanted: false, state: 'off' })).words).toBe(
      'Your page is ready',
    )
    expect(guestSays('sending', true, state({ arrives: false, state: 'starting' })).words).toBe('On its way')
  })
  it.each(['black', 'blurred', 'stuck'])('tells that a %s picture arrives, but not well', (wrong) => {
    expect(guestSays('sending', true, state({ state: wrong })).words).toContain('not well')
  })
})

describe('what a slow network costs', () => {
  const MB = 1_000_000
  it('leaves frames of paper out and keeps them sharp', () => {
    const pace = new Pace('sharp')
    expect(pace.sends(0, 4 * MB, 0)).toBe(true)
    expect(pace.sends(0.2 * MB, 4 * MB, 10)).toBe(false)
    for (let ms = 0; ms < 20_000; ms += 33) pace.sends(0.2 * MB, 4 * MB, ms)
    expect(pace.scale).toBe(1)
  })
  it('makes a face smaller and keeps it moving', () => {
    const pace = new Pace('smooth')
    expect(pace.sends(0.12 * MB, 4 * MB, 0)).toBe(true)
    for (let ms = 0; ms < 10_000; ms += 33) pace.sends(0.12 * MB, 4 * MB, ms)
    expect(pace.scale).toBe(0.4)
    for (let ms = 10_000; ms < 60_000; ms += 33) pace.sends(0, 4 * MB, ms)
    expect(pace.scale).toBe(1)
  })
  it('encodes no more pictures than go out, evenly', () => {
    const sent = (fps: number) => {
      const pace = new Pace('sharp')
      pace.most = fps
      const come = Array.from({ length: 90 }, (_, n) => 10_000 + (n * 1000) / 30 + 5 * Math.sin(7 * n))
      return come.filter((ms) => pace.isDue(ms)).length
    }
    expect(sent(Infinity)).toBe(90)
    expect(sent(30)).toBe(90) // jitter costs none
    expect(sent(20) / 3).toBeCloseTo(20, 0)
    expect(sent(12) / 3).toBeCloseTo(12, 0)
  })
  it('does not give up at one late packet', () => {
    const pace = new Pace('smooth')
    pace.sends(0.12 * MB, 4 * MB, 0)
    pace.sends(0, 4 * MB, 900)
    pace.sends(0.12 * MB, 4 * MB, 1800)
    expect(pace.scale).toBe(1)
  })
})

describe('two fingers', () => {
  const finger = (pointerId: number, clientX: number) => ({ pointerId, clientX, clientY: 0 })
  function pinch(span: { min: number; max: number } | undefined) {
    const set = vi.fn()
    return {
      made: new Pinch(
        () => span,
        () => 100,
        set,
      ),
      set,
    }
  }
  it('zoom by how far they part', () => {
    const { made, set } = pinch({ min: 100, max: 400 })
    made.down(finger(1, 0))
    made.down(finger(2, 100))
    made.move(finger(2, 250))
    expect(set).toHaveBeenLastCalledWith(250)
    made.move(finger(2, 5000))
    expect(set).toHaveBeenLastCalledWith(400)
    made.move(finger(2, 10))
    expect(set).toHaveBeenLastCalledWith(100)
  })
  it('one finger, a third or a lens without zoom change nothing', () => {
    const { made, set } = pinch({ min: 100, max: 400 })
    made.down(finger(1, 0))
    made.move(finger(1, 300))
    made.move(finger(9, 300))
    made.down(finger(2, 100))
    made.up(finger(2, 100) as never)
    made.move(finger(1, 900))
    expect(set).not.toHaveBeenCalled()
    const none = pinch(undefined)
    none.made.down(finger(1, 0))
    none.made.down(finger(2, 100))
    none.made.move(finger(2, 300))
    expect(none.set).not.toHaveBeenCalled()
  })
})

describe('a lens', () => {
  const track = (can: object, now: object) =>
    ({
      getCapabilities: () => can,
      getSettings: () => now,
      applyConstraints: vi.fn(async () => {}),
    }) as unknown as MediaStreamTrack & { applyConstraints: ReturnType<typeof vi.fn> }

  it('is the rear one unless another was chosen', () => {
    expect(wanted(null, false, null).video).toMatchObject({
      facingMode: { ideal: 'environment' },
      width: { ideal: 1920 },
    })
    expect(wanted('x', true, { width: 1280, height: 720 }).video).toMatchObject({
      deviceId: { exact: 'x' },
      width: { ideal: 720 },
      height: { ideal: 1280 },
    })
  })
  it.each([
    ['camera2 1, facing front', 'front'],
    ['Back Camera', 'rear'],
    ['Selfie lens', 'front'],
    ['USB cam', null],
  ])('%s faces %s', (label, facing) => {
    expect(facingOf(label)).toBe(facing)
  })
  it('tells what it can be set to', () => {
    const found = controlsOf(
      track(
        {
          zoom: { min: 1, max: 8, step: 0.1 },
          torch: true,
          brightness: { min: 5, max: 5 },
          focusMode: ['continuous'],
        },
        { zoom: 2, torch: false },
      ),
    )
    expect(found).toEqual({
      spans: { zoom: { min: 1, max: 8, step: 0.1 }, torch: { min: 0, max: 1, step: 1 } },
      settings: { zoom: 2, torch: 0 },
      canRefocus: true,
    })
    expect(controlsOf(track({}, {}))).toEqual({ spans: {}, settings: {}, canRefocus: false })
  })
  it('is set one control after the other, light as on or off', async () => {
    const one = track({}, {})
    await set(one, { zoom: 3, torch: 1, focusDistance: 0.4 })
    expect(one.applyConstraints.mock.calls.map(([asked]) => asked.advanced[0])).toEqual([
      { zoom: 3 },
      { torch: true },
      { focusDistance: 0.4, focusMode: 'manual' },
    ])
  })
  it('refocuses once and then goes on by itself', async () => {
    const one = track({ focusMode: ['manual', 'continuous', 'single-shot'] }, {})
    await refocus(one)
    expect(one.applyConstraints.mock.calls.map(([asked]) => asked.advanced[0].focusMode)).toEqual([
      'single-shot',
      'continuous',
    ])
  })
  it('survives a control that the phone refuses', async () => {
    const one = track({}, {})
    one.applyConstraints.mockRejectedValue(new Error('no'))
    await expect(set(one, { zoom: 9 })).resolves.toBeUndefined()
  })
  it.each([
    ['NotAllowedError', 'denied'],
    ['NotFoundError', 'none'],
    ['OverconstrainedError', 'none'],
    ['NotReadableError', 'busy'],
  ])('%s means %s', (name, trouble) => {
    expect(troubleOf(new DOMException('', name))).toBe(trouble)
  })
})
