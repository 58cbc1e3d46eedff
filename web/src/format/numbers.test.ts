import { describe, expect, it } from 'vitest'

import { amount, duration, figure, signed, tick } from './numbers'

const seconds = { label: 's', factor: 1, decimals: 1 }
const mib = { label: 'MiB', factor: 2 ** 20, decimals: 0 }

describe('figures', () => {
  it('are written in the row’s scale with a true minus', () => {
    expect(amount(17.04, seconds)).toBe('17.0 s')
    expect(amount(312 * 2 ** 20, mib)).toBe('312 MiB')
    expect(figure(-0.51, seconds)).toBe('−0.5')
    expect(figure(-0.01, seconds)).toBe('0.0')
    expect(amount(5, { label: '', factor: 1, decimals: 0 })).toBe('5')
  })
  it('show the sign of a difference, except of zero', () => {
    expect(signed(3.32, seconds)).toBe('+3.3')
    expect(signed(-3.32, seconds)).toBe('−3.3')
    expect(signed(0.01, seconds)).toBe('0.0')
  })
  it('are whole on an axis where they are whole', () => {
    expect(tick(20)).toBe('20')
    expect(tick(0.1 + 0.2)).toBe('0.3')
    expect(tick(-2)).toBe('−2')
  })
})

describe('durations', () => {
  it.each([
    [0.2, '1 s'],
    [59, '59 s'],
    [70, '1 min 10 s'],
    [720, '12 min'],
    [6600, '1 h 50 min'],
    [7200, '2 h'],
  ])('%s seconds are %s', (span, says) => {
    expect(duration(span)).toBe(says)
  })
})
