import { expect, it } from 'vitest'

import type { LaneRamps } from '@/api/types'

import { rampShapes, rampTable, usualEnd } from './ramp'

const MIB = 2 ** 20

const run = (used: number[], ended = 'memory floor'): LaneRamps['runs'][number] => ({
  run_id: String(Math.random()),
  block: 1,
  used: used.map((value) => value * MIB),
  carried: used.length,
  ended,
  swap_at: null,
  memory: 1024 * MIB,
})
const lane = (runs: LaneRamps['runs'], change: Partial<LaneRamps> = {}): LaneRamps => ({
  lane_no: 1,
  machine: 'Terminal',
  app: 'wayfarrow',
  runs,
  carried: 3,
  is_at_least: false,
  base: 450 * MIB,
  step: 50 * MIB,
  need: { typical: 1100 * MIB, low: 1050 * MIB, high: 1150 * MIB, level: 0.95, runs: 3 },
  fits: [],
  checks: [],
  ...change,
})
const frame = { left: 60, right: 660, top: 40, bottom: 340 }

it('draws a line a ramp, more memory higher, and its end where the middle one ended', () => {
  const runs = [run([500, 550]), run([500, 550, 600]), run([500, 550, 600, 650], 'page lost')]
  const shapes = rampShapes([lane(runs)], frame)
  expect(shapes.lanes[0]!.curves).toHaveLength(3)
  expect(shapes.endedBy).toBe('memory floor')
  expect(shapes.lanes[0]!.end).toMatchObject({ says: '', isAtLeast: false })
  expect(shapes.lanes[0]!.end!.x).toBeCloseTo(shapes.across.place(3))
  expect(shapes.up.place(600 * MIB)).toBeLessThan(shapes.up.place(500 * MIB))
  expect(shapes.memory).toMatchObject({ label: '1.00 GiB' })
})

it('leaves out a memory that lies far above what was used, and one that differs from run to run', () => {
  const large = { ...run([500]), memory: 64 * 1024 * MIB }
  expect(rampShapes([lane([large])], frame).memory).toBeNull()
  expect(rampShapes([lane([run([500]), { ...run([500]), memory: 2048 * MIB }])], frame).memory).toBeNull()
})

it('survives a ramp that carried nothing', () => {
  expect(rampShapes([lane([run([])])], frame).lanes[0]!.end).toBeNull()
})

it('tells in the table what ended most ramps, how far they reached, and what is needed in one unit', () => {
  const runs = [run([500, 550]), run([500, 550, 600]), run([500, 550, 600], 'page lost')]
  expect(usualEnd(lane(runs))).toBe('memory floor')
  const [row] = rampTable([lane(runs)], new Map([[1, 'Varrow']]), 10).rows
  expect(row).toEqual([
    'Varrow',
    3,
    '3 (2 to 3)',
    'memory floor',
    '450 MiB',
    '50 MiB',
    '1.07 GiB (1.03 to 1.12)',
  ])
})

it('says at each end what it was where lanes ended differently, and leaves out what has no room', () => {
  const crowded = [
    lane([run([500, 550])], { lane_no: 1 }),
    lane([run([500, 900], 'page lost')], { lane_no: 2 }),
    lane([run([500, 552], 'application gone')], { lane_no: 3 }),
  ]
  const shapes = rampShapes(crowded, frame)
  expect(shapes.endedBy).toBeNull()
  expect(shapes.lanes.map((one) => one.end!.says)).toEqual(['memory floor', 'page lost', ''])
})
