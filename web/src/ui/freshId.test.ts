import { expect, it } from 'vitest'

import { freshId } from './freshId'

it('is a random UUID of version 4', () => {
  const made = Array.from({ length: 50 }, freshId)
  expect(new Set(made).size).toBe(50)
  for (const one of made)
    expect(one).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/)
})
