import { describe, expect, it } from 'vitest'

import { run as testRun, sheet as testSheet } from '@/charts/layout/testRow'

import { conditionOf, howItIsRun } from './sheetWords'

describe('howItIsRun', () => {
  it('tells what switches a machine', () => {
    expect(howItIsRun({ rig: 'enrolled', recipe: { switching: 'next-entry' } })).toBe('boots itself next')
    expect(howItIsRun({ rig: 'enrolled', recipe: {} })).toBe('restarts by itself')
    expect(howItIsRun({ rig: 'guest', recipe: {} })).toBe('a fresh virtual machine')
    expect(howItIsRun({ rig: null, recipe: {} })).toBe('its readings are brought in')
    expect(howItIsRun({ rig: 'person', recipe: {} })).toBe('a person measures it')
  })
})

describe('conditionOf', () => {
  it('says what the plan states, and what the lane observed before', () => {
    const lanes = [{ lane_no: 1, half_width_share: null, observed_conditions: { medium: 'installed' } }]
    const next = testRun({ state: 'planned', conditions: { app: 'Coppicer', start: 'warm' } })
    expect(conditionOf(next, { ...testSheet([next]), lanes })).toBe('installed, Coppicer, warm')
    expect(conditionOf(testRun({ state: 'planned' }), testSheet([]))).toBe('as found')
  })
})
