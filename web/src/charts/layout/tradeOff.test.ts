import { describe, expect, it } from 'vitest'

import type { FindingRow } from '@/api/types'

import { row } from './testRow'
import { bestInBoth, frontierOf, tradeOff, tradeTable } from './tradeOff'

const frame = { left: 0, right: 400, top: 0, bottom: 300 }
const names = new Map([
  [1, 'Varrow 12'],
  [2, 'Quillfern 8'],
  [3, 'Osterfell'],
  [4, 'Marlstone 26.1'],
])

const of = (medians: (number | null)[], change: Partial<FindingRow> = {}): FindingRow => {
  const made = row(change)
  const [lane] = made.lanes
  return {
    ...made,
    lanes: medians.map((median, i) => ({
      ...lane!,
      lane_no: i + 1,
      summary:
        median === null
          ? null
          : {
              ...lane!.summary!,
              median,
              median_interval: { low: median - 1, high: median + 1, level: 0.95 },
            },
    })),
  }
}

const boot = of([10, 20, 30, 25])
const memory = of([400, 300, 350, 200], { label: 'Memory in use' })

describe('two measures against one another', () => {
  it('have those in front whom nobody beats in both', () => {
    expect(bestInBoth(boot, memory)).toEqual([1, 2, 4])
    const points = [
      { laneNo: 1, x: 10, y: 1 },
      { laneNo: 2, x: 10, y: 1 },
    ]
    expect(frontierOf(points, boot, memory), 'alike in both: neither beats the other').toHaveLength(2)
  })
  it('turn round where more is better', () => {
    const rate = of([400, 300, 350, 200], { good_end: 'high' })
    expect(bestInBoth(boot, rate)).toEqual([1])
  })
  it('are placed with their intervals, the lower the farther down', () => {
    const { marks, frontier } = tradeOff(boot, memory, frame)
    const [first, second] = marks
    expect(first!.x).toBeLessThan(second!.x)
    expect(first!.y).toBeLessThan(second!.y)
    expect(first!.across![0]).toBeLessThan(first!.x)
    expect(marks.map((mark) => mark.isFrontier)).toEqual([true, true, false, true])
    expect(frontier.match(/[ML]/g)).toEqual(['M', 'L', 'L'])
  })
  it('leave out who was not measured in one of them', () => {
    const { marks } = tradeOff(of([10, null]), of([400, 300]), frame)
    expect(marks.map((mark) => mark.laneNo)).toEqual([1])
    expect(tradeOff(of([null]), of([null]), frame).marks).toEqual([])
  })
  it('put a name below where another mark stands close above', () => {
    const close = tradeOff(of([10, 10.2, 40]), of([300, 302, 400]), frame)
    expect(close.marks.map((mark) => mark.isBelow)).toEqual([true, false, false])
  })
  it('stand in a table with both intervals', () => {
    const table = tradeTable(boot, memory, names)
    expect(table.head).toHaveLength(7)
    expect(table.rows[0]).toEqual(['Varrow 12', 10, 9, 11, 400, 399, 401])
  })
})
