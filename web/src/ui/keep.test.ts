import { describe, expect, it } from 'vitest'

import { fileName } from './keep'

describe('the name of a kept file', () => {
  it('holds letters, figures and dashes only', () => {
    expect(fileName('Which edition?', 'Power-on to ready')).toBe('which-edition-power-on-to-ready')
    expect(fileName('x'.repeat(200)).length).toBe(80)
  })
})
