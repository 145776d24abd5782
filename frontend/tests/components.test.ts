import { enableAutoUnmount, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import CornerEditor from '@/square-up/CornerEditor.vue'
import PlateStrip from '@/teach/PlateStrip.vue'
import EnterCode from '@/shared/EnterCode.vue'
import NumberSlider from '@/shared/NumberSlider.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import type { Plate } from '@/api/client'

enableAutoUnmount(afterEach) // what is left standing asks for its pictures in the midst of other files' tests

describe('a verdict', () => {
  it.each([
    ['holds', '✓'],
    ['look', '◆'],
    ['wrong', '✕'],
  ] as const)('%s has a sign and a word besides its colour', (kind, sign) => {
    const chip = mount(VerdictChip, { props: { kind }, slots: { default: 'Reads true' } })
    expect(chip.text()).toContain(sign)
    expect(chip.text()).toContain('Reads true')
    expect(chip.classes()).toContain(kind)
  })
})

describe('the four corners', () => {
  const corners = [
    [0.2, 0.2],
    [0.8, 0.2],
    [0.8, 0.8],
    [0.2, 0.8],
  ] as [[number, number], [number, number], [number, number], [number, number]]
  const editor = () => mount(CornerEditor, { props: { corners, on: true, aspect: 16 / 9 } })

  it('move by arrow keys, ten times as far with shift, and only the one that has the focus', async () => {
    const made = editor()
    await made.findAll('circle')[1]!.trigger('keydown', { key: 'ArrowLeft' })
    await made.findAll('circle')[1]!.trigger('keydown', { key: 'ArrowDown', shiftKey: true })
    const [small, large] = made.emitted('move')! as [typeof corners, boolean][]
    expect(small![0][1]![0]).toBeCloseTo(0.798)
    expect(large![0][1]![1]).toBeCloseTo(0.2 + (0.02 * 16) / 9)
    expect(small![0][0]).toEqual(corners[0])
    expect(small![1]).toBe(true)
  })
  it('never leave the picture further than a corner may lie', async () => {
    const made = editor()
    await made.setProps({ corners: [[-0.18, 0.2], corners[1], corners[2], corners[3]] })
    await made.findAll('circle')[0]!.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    expect((made.emitted('move')![0]![0] as typeof corners)[0]![0]).toBeCloseTo(-0.18)
  })
  it('leave other keys alone', async () => {
    const made = editor()
    await made.findAll('circle')[0]!.trigger('keydown', { key: 'q' })
    expect(made.emitted('move')).toBeUndefined()
  })
  it('say where they are', () => {
    expect(editor().find('circle').attributes('aria-label')).toContain(
      'Upper left corner, 20% across, 20% down',
    )
  })
})

describe('the plates', () => {
  const plates = [
    { id: 'a', name: 'Page', places: [] },
    { id: 'b', name: 'Face', places: [] },
  ] as unknown as Plate[]
  it('show their key, which one is on, and are chosen by a press', async () => {
    const strip = mount(PlateStrip, { props: { plates, rects: {}, on: 'b' } })
    const [first, second] = strip.findAll('button')
    expect(first!.text()).toBe('1Page')
    expect(second!.attributes('aria-pressed')).toBe('true')
    await first!.trigger('click')
    expect(strip.emitted('choose')).toEqual([['a']])
  })
})

describe('a slider', () => {
  const slant = (value: number, max = 60) => ({
    label: 'Vertical slant',
    value,
    min: -max,
    max,
    shown: `${value} %`,
  })
  const position = (made: ReturnType<typeof mount>) => made.get('[role=slider]').attributes('aria-valuenow')

  it('moves nothing by itself when its value lies outside its range', async () => {
    const made = mount(NumberSlider, { props: slant(12) })
    await made.setProps(slant(82))
    expect(made.emitted('change')).toBeUndefined()
    expect(position(made)).toBe('60')
  })
  it('shows its value once its range is known', async () => {
    const made = mount(NumberSlider, { props: slant(-4, 0) })
    await made.setProps(slant(-4))
    expect(made.emitted('change')).toBeUndefined()
    expect(position(made)).toBe('-4')
  })
})

describe('the code of an invitation', () => {
  const entered = async (code: string) => {
    const made = mount(EnterCode, {
      props: { title: 'Watch', press: 'Watch', refused: null, modelValue: code },
    })
    await made.get('form').trigger('submit')
    return made.emitted('come')
  }

  it('is six characters, however they are set apart', async () => {
    expect(await entered('ABC-234')).toEqual([['ABC-234']])
    expect(await entered(' ABC234 ')).toEqual([[' ABC234 ']])
  })
  it('is not sent before all of them are there', async () => {
    expect(await entered('ABC-23')).toBeUndefined()
    expect(await entered('')).toBeUndefined()
  })
})
