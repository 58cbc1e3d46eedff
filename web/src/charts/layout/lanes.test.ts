import { describe, expect, it } from 'vitest'

import { linearAxis } from './axis'
import { differenceLanes, marginStrip } from './differenceLanes'
import { readingLanes } from './readingLanes'
import { againstRunningMedian, runLanes } from './runLanes'
import { columns, row, run, sheet } from './testRow'

const frame = { left: 100, right: 500, top: 30, laneHeight: 60 }

describe('reading lanes', () => {
  const shapes = readingLanes(row(), columns(), frame)
  it('hold the readings of the row’s own method, set-aside ones marked', () => {
    expect(shapes.lanes.map((lane) => lane.ticks.map((item) => item.id))).toEqual([['a', 'c'], ['b']])
    expect(shapes.lanes[0]!.ticks.map((item) => item.isAside)).toEqual([false, true])
  })
  it('keep readings and intervals inside the frame', () => {
    const xs = shapes.lanes.flatMap((lane) => [...lane.ticks.map((t) => t.x), ...(lane.interval ?? [])])
    expect(Math.min(...xs)).toBeGreaterThanOrEqual(frame.left)
    expect(Math.max(...xs)).toBeLessThanOrEqual(frame.right)
  })
  it('point to a slow first run and count failed ones', () => {
    expect(shapes.lanes[0]!.slowFirst).toBe(shapes.lanes[0]!.ticks[0]!.x)
    expect(shapes.lanes[1]!.slowFirst).toBeNull()
    expect(shapes.lanes[1]!.failed).toBe(1)
  })
  it('stand one below the other', () => {
    expect(shapes.lanes.map((lane) => lane.y)).toEqual([30, 90])
    expect(shapes.bottom).toBe(150)
  })
})

describe('limits that runs which timed out leave open', () => {
  const late = row()
  late.lanes[1]!.summary!.median = null
  late.lanes[1]!.summary!.median_interval = { low: 19, high: null, level: 0.95 }
  late.pairs[0]!.shift = { value: null, interval: { low: 8, high: null, level: 0.95 } }
  it('reach to the edge of the readings', () => {
    const lane = readingLanes(late, columns(), frame).lanes[1]!
    expect(lane.median).toBe(frame.right)
    expect(lane.interval![1]).toBe(frame.right)
    expect(lane.interval![0]).toBeLessThan(frame.right)
  })
  it('reach to the edge of the differences, and are said in words', () => {
    const lane = differenceLanes(late, 1, frame).lanes[1]!
    expect([lane.x, lane.high]).toEqual([frame.right, frame.right])
    expect(lane.low).toBeLessThan(frame.right)
    expect(lane.label).toBe('beyond the limit')
  })
})

describe('difference lanes', () => {
  it('turn round with the baseline', () => {
    const one = differenceLanes(row(), 1, frame)
    const two = differenceLanes(row(), 2, frame)
    expect(one.lanes[1]!.label).toBe('+10.0 s')
    expect(two.lanes[0]!.label).toBe('−10.0 s')
    expect(one.lanes[0]!.pair).toBeNull()
  })
  it('contain zero and the margin', () => {
    const { zero, strip, axis } = differenceLanes(row(), 1, frame)
    expect(strip![0]).toBeLessThan(zero)
    expect(strip![1]).toBeGreaterThan(zero)
    expect(axis.ticks.some((tick) => tick.label === '0')).toBe(true)
  })
  it('draw the wider of amount and share as the strip', () => {
    const both = row({ margin: { share: 0.1, amount: 0.5 } })
    expect(marginStrip(both, 1)).toEqual([-10 * (1 - 1 / 1.1), 1])
    expect(marginStrip(row(), 1)).toEqual([-0.5, 0.5])
    expect(marginStrip(row({ margin: { share: null, amount: null } }), 1)).toBeNull()
  })
})

describe('run lanes', () => {
  it('set each run against its lane’s median so far', () => {
    const values = [10, 12, 11, 15].map((value) => run({ value }))
    expect(againstRunningMedian(values)).toEqual([-1, 1, 0, 3.5])
    expect(againstRunningMedian([run({ value: null }), run({ value: 9 })])).toEqual([null, 0])
  })
  it('show what failed, runs and is to come', () => {
    const runs = [
      run({}),
      run({ state: 'failed', value: null }),
      run({ state: 'running', value: null }),
      run({ state: 'planned', value: null }),
    ]
    const [lane] = runLanes(sheet(runs), [1], { left: 0, right: 400, laneHeight: 60, lineAt: 30 }).lanes
    expect(lane!.marks.map((mark) => mark.kind)).toEqual(['reading', 'failed', 'live', 'planned'])
    expect([lane!.done, lane!.planned, lane!.median]).toEqual([2, 4, 10])
  })
  it('keep far-out runs within reach and say so', () => {
    const runs = [...Array.from({ length: 30 }, () => run({})), run({ value: 40 })]
    const lane = runLanes(sheet(runs), [1], { left: 0, right: 400, laneHeight: 60, lineAt: 30 }).lanes[0]!
    expect(lane.marks.at(-1)!.isBeyond).toBe(true)
    expect(Math.abs(lane.marks.at(-1)!.dy)).toBeLessThanOrEqual(30)
  })
  it('leave out other procedures than the headline’s', () => {
    const runs = [run({}), run({ procedure: 'launch' })]
    expect(
      runLanes(sheet(runs), [1], { left: 0, right: 400, laneHeight: 60, lineAt: 30 }).lanes[0]!.planned,
    ).toBe(1)
  })
})

describe('an axis', () => {
  it('ticks are round in the shown unit', () => {
    const axis = linearAxis([300 * 2 ** 20, 500 * 2 ** 20], [0, 400], {
      label: 'MiB',
      factor: 2 ** 20,
      decimals: 0,
    })
    expect(axis.ticks.map((tick) => tick.label)).toContain('400')
  })
  it('one single value still makes an axis', () => {
    const axis = linearAxis([5, 5], [0, 400], { label: 's', factor: 1, decimals: 1 })
    expect(Number.isFinite(axis.place(5))).toBe(true)
    expect(axis.ticks.length).toBeGreaterThan(1)
  })
})
