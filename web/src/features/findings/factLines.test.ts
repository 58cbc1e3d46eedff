import { describe, expect, it } from 'vitest'

import type { Findings, Study } from '@/api/types'
import { row, sheet } from '@/charts/layout/testRow'

import { factLines } from './factLines'

const contender = (lane_no: number, edition: string) => ({
  id: String(lane_no),
  lane_no,
  label: edition,
  install: {
    id: '',
    name: '',
    rig: null,
    recipe: {},
    system: { name: edition, distribution: 'Varrow', release: '12', edition, architecture: null },
    machine: { name: 'Bench', kind: 'virtual', host: null, facts: {} },
  },
})

describe('facts side by side', () => {
  it('puts what differs first and leaves out what nobody states', () => {
    const study = { contenders: [contender(1, 'Thistlow'), contender(2, 'Tarnwick')] } as unknown as Study
    const findings = { rows: [row({ metric: 'disk.used', label: 'Space used' })] } as unknown as Findings
    const observed = (lane_no: number, kernel: string) => ({
      lane_no,
      half_width_share: null,
      observed_conditions: { kernel, medium: 'installed' },
    })
    const lines = factLines(study, findings, {
      ...sheet([]),
      lanes: [observed(1, '6.1'), observed(2, '6.2')],
    })
    const of = (label: string) => lines.find((line) => line.label === label)
    expect(lines.slice(0, 3).map((line) => line.label)).toEqual(['edition', 'kernel', 'space used'])
    expect(of('medium')).toEqual({ label: 'medium', values: ['installed', 'installed'], differs: false })
    expect(of('architecture')).toBeUndefined()
    expect(of('space used')?.values).toEqual(['10.0 s', '20.0 s'])
  })
})
