import { describe, expect, it } from 'vitest'

import { run as testRun, sheet as testSheet } from '@/charts/layout/testRow'

import { conditionOf, howItGetsThere } from './sheetWords'

describe('howItGetsThere', () => {
  it('tells what switches a machine', () => {
    expect(howItGetsThere({ rig: 'enrolled', recipe: { switching: 'next-entry' } })).toBe('boots itself next')
    expect(howItGetsThere({ rig: 'enrolled', recipe: {} })).toBe('restarts by itself')
    expect(howItGetsThere({ rig: 'guest', recipe: {} })).toBe('a fresh virtual machine')
    expect(howItGetsThere({ rig: null, recipe: {} })).toBe('a person measures it')
  })
})

describe('conditionOf', () => {
  it('says what the plan states, and what the lane met before', () => {
    const lanes = [{ lane_no: 1, half_width_share: null, met: { medium: 'installed' } }]
    const next = testRun({ state: 'planned', conditions: { app: 'Coppicer', start: 'warm' } })
    expect(conditionOf(next, { ...testSheet([next]), lanes })).toBe('installed, Coppicer, warm')
    expect(conditionOf(testRun({ state: 'planned' }), testSheet([]))).toBe('as found')
  })
})
