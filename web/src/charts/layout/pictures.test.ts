import { describe, expect, it } from 'vitest'

import { bootPartLanes } from './bootParts'
import { definitions } from './definitions'
import { orderLanes } from './orderLanes'
import { settlingLanes } from './settling'
import { spread } from './spread'
import { columns, row } from './testRow'
import { frontierOf, tradeOff } from './tradeOff'

const frame = { left: 100, right: 500, top: 20, laneHeight: 60 }

describe('readings in their order', () => {
  it('stand block by block, the larger higher, in the lane of their contender', () => {
    const made = orderLanes(row(), columns(), frame)
    const [first, second] = made.lanes
    expect(first!.marks.map((mark) => mark.block)).toEqual([1, 2])
    expect(first!.marks[0]!.y).toBeLessThan(first!.marks[1]!.y)
    expect(first!.marks[1]!.isAside).toBe(true)
    expect(second!.marks).toHaveLength(1)
    expect(made.blocks.map((block) => block.label)).toEqual(['1', '2'])
  })

  it('mark where a condition changed', () => {
    const lanes = row().lanes
    lanes[0]!.breaks = [{ key: 'kernel', label: 'kernel', before: '6.1', after: '6.2', block: 2 }]
    const made = orderLanes(row({ lanes }), columns(), frame)
    expect(made.lanes[0]!.breaks).toEqual([{ x: 300, says: 'kernel: 6.1, then 6.2' }])
  })
})

describe('the spread', () => {
  it('rises by one step for each reading that counts', () => {
    const made = spread(row(), columns(), { left: 100, right: 500, top: 10, height: 200 })
    expect(made.curves.map((curve) => curve.count)).toEqual([1, 1])
    expect(made.curves[0]!.path.match(/V/g)).toHaveLength(1)
    expect(made.shares.at(-1)).toEqual({ y: 10, label: '100 %' })
  })
})

describe('the trade-off', () => {
  const points = [
    { laneNo: 1, x: 10, y: 30 },
    { laneNo: 2, x: 20, y: 20 },
    { laneNo: 3, x: 25, y: 40 },
    { laneNo: 4, x: 40, y: 10 },
  ]

  it('has those on its frontier that no other beats in both', () => {
    expect(frontierOf(points, row(), row()).map((p) => p.laneNo)).toEqual([1, 2, 4])
    const high = row({ good_end: 'high' })
    expect(frontierOf(points, high, high).map((p) => p.laneNo)).toEqual([4, 3])
  })

  it('keeps those that are alike', () => {
    const alike = [
      { laneNo: 1, x: 1, y: 1 },
      { laneNo: 2, x: 1, y: 1 },
    ]
    expect(frontierOf(alike, row(), row())).toHaveLength(2)
  })

  it('shows intervals both ways', () => {
    const made = tradeOff(row(), row(), { left: 100, right: 500, top: 10, bottom: 300 })
    expect(made.marks[0]!.across![0]).toBeLessThan(made.marks[0]!.x)
    expect(made.marks[0]!.up![0]).toBeGreaterThan(made.marks[0]!.y)
    expect(made.marks.map((mark) => mark.isFrontier)).toEqual([true, false])
  })
})

describe('definitions of memory', () => {
  it('stand under one another on one axis, and need two of them', () => {
    const used = row({ key: 'u', metric: 'memory.used' })
    const nocache = row({ key: 'n', metric: 'memory.used_nocache' })
    const box = { left: 100, right: 500, top: 0, lineHeight: 40 }
    const made = definitions([nocache, used, row({ machine: 'Other', metric: 'memory.rss' })], 'Bench', box)
    expect(made!.lines.map((line) => line.key)).toEqual(['u', 'n'])
    expect(made!.lines[0]!.marks.map((mark) => mark.x)).toEqual(made!.lines[1]!.marks.map((mark) => mark.x))
    expect(definitions([used], 'Bench', box)).toBeNull()
  })
})

describe('settling', () => {
  it('draws a curve for each run, on one scale for all lanes', () => {
    const trace = (lane_no: number, values: number[]) => ({
      lane_no,
      block: 1,
      run_id: `${lane_no}`,
      metric: 'memory.used',
      unit: 'B',
      times_s: [1, 2, 3],
      values,
    })
    const made = settlingLanes(
      [trace(1, [3e8, 2e8, 2e8]), trace(2, [1e8, 1e8, 1e8]), { ...trace(2, []), times_s: [] }],
      [1, 2, 3],
      frame,
    )
    expect(made.lanes.map((lane) => lane.curves.length)).toEqual([1, 1])
    const [first, second] = made.lanes
    expect(first!.curves[0]!.path.match(/L/g)).toHaveLength(2)
    expect(second!.curves[0]!.end.y - second!.y).toBeGreaterThan(first!.curves[0]!.end.y - first!.y)
  })
})

describe('parts of the boot', () => {
  it('follow one another, each boundary with its interval', () => {
    const made = bootPartLanes(
      {
        machine: 'Bench',
        headline: '',
        sentence: '',
        sources: [{ metric: 'boot.kernel', label: 'Kernel', method: 'systemd' }],
        lanes: [
          {
            lane_no: 2,
            runs: 9,
            opened: [],
            parts: [
              {
                metric: 'boot.kernel',
                label: 'Kernel',
                start: 0,
                end: 4,
                end_interval: { low: 3, high: 5, level: 0.95 },
              },
            ],
          },
        ],
      },
      frame,
    )
    const [part] = made.lanes[0]!.parts
    expect(part!.seconds).toBe(4)
    expect(part!.from).toBeLessThan(part!.to)
    expect(part!.end![0]).toBeLessThan(part!.to)
  })
})
