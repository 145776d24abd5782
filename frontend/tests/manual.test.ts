import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import ManualScreen from '@/shared/ManualScreen.vue'

it('shows the manual that stands in docs/', () => {
  const screen = mount(ManualScreen)
  expect(screen.find('h1').text()).toBe('Cartouche, for the teacher')
  expect(screen.findAll('ol li').length).toBeGreaterThan(4)
  expect(screen.html()).not.toContain('**')
})
