import { describe, expect, it } from 'vitest'
import { darker } from '@/shared/controls'

const span = { min: -2, max: 2, step: 0.5 }

describe('darker', () => {
  it('lowers by a stop, and not below the least', () => {
    expect(darker({ exposureCompensation: span }, { exposureCompensation: 0 })).toEqual({
      exposureCompensation: -1,
    })
    expect(darker({ exposureCompensation: span }, { exposureCompensation: -1.5 })).toEqual({
      exposureCompensation: -2,
    })
  })
  it('takes the next way where the first is at its least', () => {
    const both = { exposureCompensation: span, exposureTime: { min: 10, max: 1000, step: 1 } }
    expect(darker(both, { exposureCompensation: -2, exposureTime: 100 })).toEqual({ exposureTime: 70 })
  })
  it('shortens brightness towards its least', () => {
    expect(darker({ brightness: { min: 50, max: 150, step: 1 } }, { brightness: 150 })).toEqual({
      brightness: 120,
    })
  })
  it('says so when nothing can be set', () => {
    expect(darker({}, {})).toBeNull()
    expect(darker({ exposureCompensation: span }, { exposureCompensation: -2 })).toBeNull()
  })
})
