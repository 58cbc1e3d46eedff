import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { makeThrottle } from './throttle'

describe('the throttle', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('acts at once, and once more at the end for all that came meanwhile', () => {
    const run = vi.fn()
    const throttle = makeThrottle(250, run)
    for (let i = 0; i < 9; i++) throttle.call()
    expect(run).toHaveBeenCalledTimes(1)
    vi.advanceTimersByTime(250)
    expect(run).toHaveBeenCalledTimes(2)
    vi.advanceTimersByTime(1000)
    expect(run).toHaveBeenCalledTimes(2)
    throttle.call()
    expect(run).toHaveBeenCalledTimes(3)
  })
  it('forgets what was asked when it is cancelled', () => {
    const run = vi.fn()
    const throttle = makeThrottle(250, run)
    throttle.call()
    throttle.call()
    throttle.cancel()
    vi.advanceTimersByTime(1000)
    expect(run).toHaveBeenCalledTimes(1)
  })
})
