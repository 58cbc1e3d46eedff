import { describe, expect, it } from 'vitest'

import type { Trace } from '@/api/types'

import {
  curvesSaid,
  curvesTable,
  MEMORY,
  rangesTable,
  settlingLanes,
  settlingSaid,
  settlingTable,
} from './settling'

const MIB = 2 ** 20
const names = new Map([
  [1, 'Varrow 12'],
  [2, 'Quillfern 8'],
])
const frame = { left: 100, right: 500, top: 20, laneHeight: 80 }

const trace = (lane_no: number, block: number, ends: number, values: number[]): Trace =>
  ({
    run_id: `${lane_no}.${block}`,
    lane_no,
    block,
    times_s: values.map((_, i) => 5 + (i * (ends - 5)) / Math.max(values.length - 1, 1)),
    values: values.map((value) => value * MIB),
  }) as unknown as Trace

const TRACES = [
  trace(1, 1, 60, [200, 300, 310]),
  trace(1, 2, 72, [210, 305, 300]),
  trace(2, 1, 40, [150, 200]),
]

describe('memory after the boot', () => {
  it('has a lane for each contender with a curve for each run', () => {
    const { lanes } = settlingLanes(TRACES, [1, 2, 3], frame)
    expect(lanes.map((lane) => [lane.laneNo, lane.curves.length])).toEqual([
      [1, 2],
      [2, 1],
    ])
    expect(lanes[1]!.y).toBe(frame.top + frame.laneHeight)
  })
  it('ends where idle was declared, later ones farther right', () => {
    const [lane] = settlingLanes(TRACES, [1], frame).lanes
    const [first, second] = lane!.curves
    expect(first!.end.x).toBeLessThan(second!.end.x)
    expect(first!.path.match(/,/g)).toHaveLength(3)
  })
  it('has all lanes on one scale: more memory stands higher in its lane', () => {
    const { lanes } = settlingLanes(TRACES, [1, 2], frame)
    const height = (i: number) => lanes[i]!.curves[0]!.end.y - lanes[i]!.y
    expect(height(0)).toBeLessThan(height(1))
  })
  it('leaves out a curve of a single point', () => {
    expect(settlingLanes([trace(1, 1, 5, [200])], [1], frame).lanes).toEqual([])
  })
  it('says when idle was declared', () => {
    expect(settlingSaid(TRACES)).toBe('Idle 40 to 72 s after the boot')
    expect(settlingSaid(TRACES.slice(0, 1))).toBe('Idle 60 s after the boot')
    expect(settlingSaid([])).toBe('No curve yet')
  })
  it('stands in tables: ends, ranges and every point', () => {
    expect(settlingTable(TRACES, names).rows[0]).toEqual(['Varrow 12', 1, 5, 200, 60, 310])
    expect(rangesTable(TRACES, names, MEMORY).rows[2]).toEqual(['Quillfern 8', 1, 150, 200, 35])
    expect(curvesTable(TRACES, names).rows).toHaveLength(8)
  })
  it('says the lowest and the highest that any run came to', () => {
    expect(curvesSaid(TRACES, MEMORY)).toBe('Memory after the boot, run over run: 150 to 310 MiB')
    expect(curvesSaid([], MEMORY)).toBe('No curve yet')
  })
})
