import { describe, expect, it } from 'vitest'

import type { FindingRow } from '@/api/types'

import { definitionRows, definitions, definitionsSaid, definitionsTable, MEANINGS } from './definitions'
import { row } from './testRow'

const MIB = 2 ** 20
const names = new Map([
  [1, 'Varrow 12'],
  [2, 'Quillfern 8'],
])
const frame = { left: 100, right: 500, top: 20, lineHeight: 40 }

const memory = (metric: string, medians: (number | null)[], change: Partial<FindingRow> = {}): FindingRow => {
  const made = row({
    key: metric,
    metric,
    label: metric,
    unit: 'B',
    scale: { label: 'MiB', factor: MIB, decimals: 0 },
    ...change,
  })
  return {
    ...made,
    lanes: made.lanes.map((lane, i) => ({
      ...lane,
      summary: medians[i] == null ? null : { ...lane.summary!, median: medians[i]! * MIB },
    })),
  }
}

const ROWS = [
  memory('memory.pss', [300, 340]),
  memory('memory.used', [420, 500]),
  memory('memory.swap_used', [null, 64]),
  memory('memory.used', [700, 710], { machine: 'Old laptop' }),
  memory('memory.used', [900, 910], { facet: 'Pages' }),
]

describe('memory under each definition', () => {
  it('has a line for each that was read on this machine, in a fixed order', () => {
    expect(definitionRows(ROWS, 'Bench').map((one) => one.metric)).toEqual([
      'memory.used',
      'memory.pss',
      'memory.swap_used',
    ])
  })
  it('is drawn from nought on one axis', () => {
    const found = definitions(ROWS, 'Bench', frame)!
    const [used, pss] = found.lines
    expect(used!.marks.map((mark) => mark.laneNo)).toEqual([1, 2])
    expect(pss!.marks[0]!.x).toBeLessThan(used!.marks[0]!.x)
    expect(used!.says).toBe('420 to 500 MiB')
    expect(used!.meaning).toBe(MEANINGS['memory.used'])
    expect(found.hasSwap).toBe(true)
    expect(found.lines[2]!.marks.map((mark) => mark.laneNo)).toEqual([2])
  })
  it('is not drawn of one definition alone', () => {
    expect(definitions(ROWS.slice(1, 2), 'Bench', frame)).toBeNull()
    expect(definitionsSaid(ROWS.slice(1, 2), 'Bench', names)).toBe('One definition was read')
  })
  it('says how far definitions part for the lightest, without its swap', () => {
    expect(definitionsSaid(ROWS, 'Bench', names)).toBe('Varrow 12: 300 or 420 MiB, by definition')
  })
  it('stands in a table with what each counts', () => {
    const table = definitionsTable(ROWS, 'Bench', names)
    expect(table.head).toEqual(['definition', 'what it counts', 'Varrow 12', 'Quillfern 8'])
    expect(table.rows[2]).toEqual(['memory.swap_used', MEANINGS['memory.swap_used'], null, 64])
  })
})
