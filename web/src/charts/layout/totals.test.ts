import { describe, expect, it } from 'vitest'

import type { Schemas } from '@/api/types'

import { totalSaid, totalsShape, totalsTable } from './totals'

type Page = Schemas['TotalsPage']
type Line = Schemas['TotalLine']

const line = (system: string, change: Partial<Line> = {}): Line =>
  ({
    system,
    index: 110,
    low: 105,
    high: 116,
    scaled: null,
    missing: [],
    parts: [{ part: 'boot.total', median: 12, points: 110 }],
    failed: 0,
    runs: 20,
    ...change,
  }) as unknown as Line

const page = (lines: Line[], change: Partial<Page> = {}): Page =>
  ({
    lines,
    reference: 'Varrow 12',
    weights: { 'boot.total': 1, 'memory.used': 2 },
    labels: { 'boot.total': 'Power-on to ready', 'memory.used': 'Memory in use' },
    scales: {
      'boot.total': { label: 's', factor: 1, decimals: 1 },
      'memory.used': { label: 'MiB', factor: 2 ** 20, decimals: 0 },
    },
    ends: null,
    ...change,
  }) as unknown as Page

const LACKS = line('Osterfell', { index: null, low: null, high: null, missing: ['memory.used'], parts: [] })

describe('indices of systems', () => {
  it('stand on one axis with 100 as a line, a better one farther right', () => {
    const shape = totalsShape(
      page([line('Quillfern 8', { index: 130 }), line('Varrow 12', { index: 100 })]),
      1200,
    )
    const [first, second] = shape.lanes
    expect(first!.x!).toBeGreaterThan(second!.x!)
    expect(second!.x).toBeCloseTo(shape.reference)
    expect(first!.y).toBeLessThan(second!.y)
  })
  it('have 100 in sight even where all are far above it', () => {
    const shape = totalsShape(page([line('A', { index: 800, low: 700, high: 900 })]), 1200)
    expect(shape.reference).toBeGreaterThanOrEqual(shape.left)
    expect(shape.lanes[0]!.x!).toBeGreaterThan(shape.reference)
  })
  it('leave more room for names than for lines on a phone', () => {
    const [wide, narrow] = [totalsShape(page([line('A')]), 1200), totalsShape(page([line('A')]), 390)]
    expect(narrow.left / 390).toBeGreaterThan(wide.left / 1200)
  })
  it('say what is missing where there is none', () => {
    const shape = totalsShape(page([LACKS]), 1200)
    expect([shape.lanes[0]!.x, shape.lanes[0]!.figure]).toEqual([null, 'none'])
    expect(shape.lanes[0]!.says).toBe('not measured: Memory in use')
  })
  it('are told with interval and failures', () => {
    expect(totalSaid(page([]), line('A'))).toBe('index 110 (105 to 116)')
    expect(totalSaid(page([]), line('A', { low: null, failed: 3 }))).toBe(
      'index 110, interval not known · 3 of 20 runs failed',
    )
  })
  it('stand in a table with every part, and between ends where those are stated', () => {
    const table = totalsTable(page([line('A'), LACKS]))
    expect(table.rows[0]).toEqual(['A', '110.0', '105.0', '116.0', '12.0 s', '110.0', '', '', ''])
    expect(table.rows[1]!.at(-1)).toBe('Memory in use')
    const ended = totalsTable(
      page([line('A', { scaled: 55 })], { ends: { nothing: 0, all: 200 } as Page['ends'] }),
    )
    expect(ended.head[4]).toBe('0 to 100 (0 to 200)')
    expect(ended.rows[0]![4]).toBe('55.0')
  })
})
