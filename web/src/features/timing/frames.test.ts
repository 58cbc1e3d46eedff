import { describe, expect, it } from 'vitest'

import { frameInterval, frameText, isTouched, secondsOf } from './frames'

describe('frames', () => {
  it('tell their interval, though some are dropped', () => {
    const times = [0, 0.04, 0.08, 0.16, 0.2, 0.24, 0.36, 0.4]
    expect(frameInterval(times)).toBeCloseTo(0.04, 6)
    expect(frameInterval([0, 0.04])).toBeNull()
  })
  it('are found by what a person writes', () => {
    expect(['1:02.5', '0:07', '12.25', '1:02:03', '7,5'].map(secondsOf)).toEqual([62.5, 7, 12.25, 3723, 7.5])
    expect(['1:75', 'soon', ''].map(secondsOf)).toEqual([null, null, null])
  })
  it('know stretches that are sped up', () => {
    expect(isTouched(0, 10, [[12, 15]])).toBe(false)
    expect(isTouched(0, 13, [[12, 15]])).toBe(true)
  })
  it('are written to a thousandth', () => {
    expect(frameText(62.5)).toBe('1:02.500')
  })
})
