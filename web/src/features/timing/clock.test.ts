import { describe, expect, it } from 'vitest'

import { carried, elapsed, startClock } from './clock'

const begun = startClock(1000, 500_000)

describe('the clock of a race', () => {
  it('is the page’s own while nothing happens', () => {
    const { clock, note } = carried(begun, 3500, 502_510)
    expect([elapsed(clock, 3500), note]).toEqual([2500, null])
  })
  it('adds what the device slept, and says so', () => {
    const { clock, note } = carried(begun, 3500, 512_500)
    expect(elapsed(clock, 3500)).toBe(12_500)
    expect(note).toContain('10.0 s')
    expect(carried(clock, 4500, 513_500).note).toBeNull()
  })
  it('does not run backwards where the day’s clock is set back', () => {
    const { clock, note } = carried(begun, 3500, 400_000)
    expect(elapsed(clock, 3500)).toBe(2500)
    expect(note).toContain('set back')
    expect(carried(clock, 4500, 401_000).note).toBeNull()
  })
  it('goes on by the day’s clock after a reload', () => {
    const { clock, note } = carried(begun, 70, 507_000, begun.page + 1)
    expect(elapsed(clock, 70)).toBe(7000)
    expect(elapsed(clock, 1070)).toBe(8000)
    expect(note).toContain('loaded anew')
  })
})
