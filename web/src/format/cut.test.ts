import { expect, test } from 'vitest'

import { cut } from './cut'

test('a text is cut to its room, but never below eight letters', () => {
  expect(cut('Varrow 12 Tarnwick', 200, 7)).toBe('Varrow 12 Tarnwick')
  expect(cut('Varrow 12 Tarnwick', 70, 7)).toBe('Varrow 12…')
  expect(cut('Varrow 12 Tarnwick', 10, 7)).toBe('Varrow …')
})
