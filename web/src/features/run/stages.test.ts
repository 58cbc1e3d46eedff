import { describe, expect, it } from 'vitest'

import { run, sheet } from '@/charts/layout/testRow'

import { stages, typicalSeconds } from './stages'

const at = (seconds: number) => new Date(Date.UTC(2026, 9, 5, 8, 0, seconds)).toISOString()

describe('what a run under way is doing', () => {
  it('is its last phase and the seconds since', () => {
    const made = sheet([run({ id: 'r', state: 'running' }), run({ id: 'l', state: 'leased' })])
    const live = new Map([['r', { phase: 'power-on', atMs: Date.parse(at(0)) }]])
    const words = stages(made, live, Date.parse(at(9)))
    expect(words.get('r')).toBe('kernel, 9 s')
    expect(words.get('l')).toBe('waiting')
  })
})

describe('the typical length', () => {
  it('is the median of the runs that are over', () => {
    const lengths = [9, 10, 30].map((s) => run({ started_at: at(0), finished_at: at(s) }))
    expect(typicalSeconds(sheet(lengths))).toBe(10)
    expect(typicalSeconds(sheet([run({ started_at: at(0), finished_at: at(0) })]))).toBeNull()
  })
})
