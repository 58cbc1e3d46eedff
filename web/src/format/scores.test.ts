import { expect, it } from 'vitest'

import { scoreText } from './scores'

it('writes scores as their scale does', () => {
  expect(scoreText('stars', 3.5)).toBe('3½ of 5')
  expect(scoreText('stars', 0.5)).toBe('½ of 5')
  expect(scoreText('points', 7.5)).toBe('7.5 of 10')
  expect(scoreText('per cent', 80)).toBe('80 %')
})
