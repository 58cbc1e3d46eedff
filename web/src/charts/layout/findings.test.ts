import { describe, expect, it } from 'vitest'

import type { PairOverMachines, Reliability } from '@/api/types'

import { isSpreadOut, linearAxis, logAxis } from './axis'
import { failureLanes, failuresSaid, failuresTable } from './failureLanes'
import { onMachines, sharedSpan } from './machineGrid'
import { orderLanes } from './orderLanes'
import { orderMarks } from './orderMarks'
import { overMachines, overMachinesTable } from './overMachines'
import { MOST_TICKS, readingLanes, servesLog } from './readingLanes'
import { rowTable } from './rowTable'
import { changeSaid, slopes, slopesTable } from './slopes'
import { startLanes, startsOf, startsSaid } from './startLanes'
import { columns, row, run, sheet } from './testRow'
import { unitLanes, unitsSaid } from './unitLanes'

const frame = { left: 100, right: 500, top: 20, laneHeight: 60 }
const names = new Map([
  [1, 'Varrow 12'],
  [2, 'Quillfern 8'],
])
const seconds = { label: 's', factor: 1, decimals: 1 }

const many = (n: number) => {
  const of = <T>(make: (i: number) => T) => Array.from({ length: n }, (_, i) => make(i))
  return {
    ...columns(),
    id: of(String),
    run_id: of(String),
    block: of((i) => i + 1),
    lane_no: of(() => 1),
    value: of((i) => 10 + (i % 20) / 10),
    set_aside: of((i) => (i === 0 ? 'lid' : null)),
    value_before: of(() => null),
    half_width: of(() => null),
    row: of(() => 'k'),
  }
}

describe('lanes of many readings', () => {
  it('show how many stand where, and keep a tick for what is set aside', () => {
    const [lane] = readingLanes(row(), many(MOST_TICKS + 40), frame).lanes
    expect(lane!.ticks.map((tick) => tick.isAside)).toEqual([true])
    expect(lane!.bars.length).toBeLessThan(30)
    expect(Math.max(...lane!.bars.map((bar) => bar.share))).toBe(1)
  })
  it('keep a tick for each reading up to the limit', () => {
    const [lane] = readingLanes(row(), many(MOST_TICKS), frame).lanes
    expect([lane!.ticks.length, lane!.bars.length]).toEqual([MOST_TICKS, 0])
  })
})

describe('a log scale', () => {
  it('serves where values are far apart, and never where one is not positive', () => {
    expect(isSpreadOut([1, 20])).toBe(true)
    expect(isSpreadOut([1, 5])).toBe(false)
    expect(isSpreadOut([0, 50])).toBe(false)
    expect(servesLog([row()], columns())).toBe(false)
  })
  it('makes steps of ratios, its ticks round', () => {
    const axis = logAxis([1, 100], [0, 300], seconds)
    expect(axis.ticks.map((tick) => tick.label)).toEqual(['1', '2', '5', '10', '20', '50', '100'])
    expect(axis.place(10) - axis.place(1)).toBeCloseTo(axis.place(100) - axis.place(10))
  })
  it('has ticks within less than a decade too', () => {
    expect(
      logAxis([0.8, 1.4], [0, 400], { label: '%', factor: 0.01, decimals: 0 }).ticks.length,
    ).toBeGreaterThan(2)
  })
  it('leaves a narrow picture few ticks', () => {
    expect(linearAxis([0, 440], [0, 140], seconds).ticks.length).toBeLessThan(5)
  })
})

describe('cold and warm', () => {
  const cold = row({ key: 'c', start: 'first-after-boot' })
  const warm = row({ key: 'w', start: 'warm' })
  warm.lanes[0]!.summary!.median = 4
  const starts = startsOf(warm, [warm, row(), cold])
  it('stand one above the other, the coldest first, on one axis', () => {
    expect(starts.map((one) => one.start)).toEqual(['first-after-boot', 'warm'])
    const both = { ...columns(), start: ['warm', 'warm', 'first-after-boot', 'first-after-boot'] }
    const { lanes } = startLanes(starts, both, frame)
    expect(lanes[0]!.strips.map((strip) => strip.start)).toEqual(['first after boot', 'warm'])
    expect(lanes[0]!.strips[0]!.middle).toBeLessThan(lanes[0]!.strips[1]!.middle)
    expect(lanes[0]!.times).toBe(2.5)
  })
  it('are said in times as long', () => {
    expect(startsSaid(starts)).toBe('Cold takes 1.0 to 2.5 times as long as warm')
  })
})

describe('what the run sheet knows beside the readings', () => {
  const runs = [
    run({ id: 'x', lane_no: 1, block: 2, started_at: '2026-01-01T08:00:00Z' }),
    run({ lane_no: 2, block: 3, state: 'failed', reason: 'hung' }),
    run({ lane_no: 2, block: 1, procedure: 'launch', state: 'failed', reason: 'other' }),
  ]
  const noted = [
    { id: 1, at: '2026-01-01T08:01:00Z', run_id: 'x', text: 'the lid' },
    { id: 2, at: '2026-01-01T08:02:00Z', run_id: null, text: 'a lorry' },
  ]
  const marks = orderMarks(row(), sheet(runs), noted)
  it('places failures of the row’s own procedure, and disturbances by run or by time', () => {
    expect(marks.failed).toEqual([{ laneNo: 2, block: 3, says: 'hung' }])
    expect(marks.disturbed).toEqual([
      { laneNo: 1, block: 2, says: 'the lid' },
      { laneNo: null, block: 2, says: 'a lorry' },
    ])
  })
  it('is drawn in its lane, or over all where nothing was under way', () => {
    const { lanes } = orderLanes(row(), columns(), frame, marks)
    expect(lanes.map((lane) => lane.failed.length)).toEqual([0, 1])
    expect(lanes.map((lane) => lane.disturbed.length)).toEqual([2, 1])
  })
})

const ratio = (value: number) => ({ value, interval: { low: value * 0.95, high: value * 1.05, level: 0.95 } })
const over = (values: number[], disagree: boolean): PairOverMachines => ({
  a: 'Varrow 12',
  b: 'Quillfern 8',
  sentence: '',
  found: {
    machines: values.map((value, i) => ({ machine: `M${i}`, medians: value, typical: ratio(value) })),
    geometric_mean: 0.9,
    interval: null,
    disagree,
  },
})

describe('over machines', () => {
  const box = { left: 100, right: 500, top: 20, head: 26, lineHeight: 20 }
  it('has a line for each machine, and one together only where they agree', () => {
    const [agreed] = overMachines([over([0.8, 0.9], false)], 'Varrow 12', box).groups
    expect(agreed!.lines.map((line) => line.label)).toEqual(['M0', 'M1', 'together'])
    const made = overMachines([over([0.8, 1.3], true)], 'Varrow 12', box)
    expect(made.groups[0]!.lines.map((line) => line.label)).toEqual(['M0', 'M1'])
    expect(made.groups[0]!.lines[0]!.x).toBeLessThan(made.one)
    expect(made.groups[0]!.lines[1]!.x).toBeGreaterThan(made.one)
  })
  it('can be read as a table', () => {
    expect(overMachinesTable('Power-on', [over([0.8, 0.9], false)], 'Varrow 12').rows.at(-1)).toEqual([
      'Quillfern 8',
      'together',
      90,
      null,
      null,
    ])
  })
  it('knows the rows of a measure on every machine, and whether one axis serves them', () => {
    const other = row({ key: 'o', machine: 'Board' })
    expect(onMachines(row(), [row(), other, row({ metric: 'boot.kernel' })])).toHaveLength(2)
    expect(sharedSpan([row()], columns())).toEqual([9, 21])
    const apart = { ...columns(), value: [1, 90, 1, 90] }
    expect(sharedSpan([row()], apart)).toBeNull()
  })
})

describe('before and after', () => {
  const change = { row: row(), before: 1, after: 2, label: 'Quillfern 8' }
  it('is said in amount and share', () => {
    const ratios = row()
    ratios.pairs[0]!.ratio = { value: 1.08, interval: { low: 1, high: 1.2, level: 0.95 } }
    expect(changeSaid({ ...change, row: ratios })).toBe('+10.0 s (+8 %)')
    expect(changeSaid(change)).toBe('+10.0 s')
  })
  it('slopes from the median before to that after, and block by block', () => {
    const {
      slopes: [slope],
      axis,
    } = slopes([change], { ...columns(), set_aside: [null, null, null, null] }, false, {
      top: 10,
      height: 200,
    })
    expect(slope!.from).toBe(axis.place(10))
    expect(slope!.to).toBe(axis.place(20))
    expect(slope!.blocks).toHaveLength(1) // the second block of lane 2 was read by another method
  })
  it('begins at 100 % in shares', () => {
    const {
      slopes: [slope],
      axis,
    } = slopes([change], columns(), true, { top: 10, height: 200 })
    expect([slope!.from, slope!.to]).toEqual([axis.place(1), axis.place(2)])
    expect(slopesTable([change]).rows[0]!.slice(2, 5)).toEqual([10, 20, 10])
  })
  it('keeps labels of close lines apart', () => {
    const close = [change, { ...change, label: 'again' }]
    const made = slopes(close, columns(), false, { top: 10, height: 200 }).slopes.map((one) => one.labelY)
    expect(Math.abs(made[0]! - made[1]!)).toBeGreaterThanOrEqual(30)
  })
})

describe('one boot', () => {
  const units = Array.from({ length: 25 }, (_, i) => ({
    name: `u${i}`,
    start_s: i,
    ready_s: i + (i === 7 ? 9 : 0.1 + i / 100),
  }))
  it('leaves the shortest out and names the longest', () => {
    const made = unitLanes(units, { left: 100, right: 500, top: 0, lineHeight: 20 })
    expect([made.units.length, made.leftOut]).toEqual([18, 7])
    expect(made.units.filter((unit) => unit.isLong)).toHaveLength(3)
    expect(unitsSaid(units).headline).toBe('u7 takes longest: 9.0 s')
  })
  it('says where no unit took any time', () => {
    expect(unitsSaid([{ name: 'a', start_s: 1, ready_s: null }]).headline).toBe('No unit took any time')
  })
})

describe('reliability', () => {
  const found: Reliability = {
    procedure: 'boot',
    machine: 'Bench',
    verdict: 'undecided',
    verdict_text: 'undecided',
    sentence: '',
    lanes: [
      { lane_no: 1, failed: 0, stalled: 2, runs: 2 },
      { lane_no: 2, failed: 1, stalled: 0, runs: 2 },
    ],
    reasons: [{ lane_no: 2, reason: 'hung', runs: 1 }],
  }
  const runs = [
    run({}),
    run({ lane_no: 2 }),
    run({ lane_no: 2, state: 'failed', reason: 'hung' }),
    run({ state: 'planned' }),
  ]
  it('draws every finished run, and says why some failed', () => {
    const { lanes } = failureLanes(found, sheet(runs), frame)
    expect(lanes.map((lane) => lane.marks.map((mark) => mark.isFailed))).toEqual([[false], [false, true]])
    expect(lanes.map((lane) => lane.why)).toEqual(['', 'hung (1)'])
    expect(lanes[0]!.says).toBe('0 of 2 failed, 2 stalled')
  })
  it('is told in a few words and as a table', () => {
    expect(failuresSaid(found, names)).toBe('Quillfern 8 failed 1 of 2 times')
    expect(failuresTable(found, names).rows[1]).toEqual(['Quillfern 8', 2, 1, '50.0 %', 0, 'hung (1)'])
  })
})

describe('a row as a table', () => {
  it('holds medians, intervals and differences in the shown unit', () => {
    const [first, second] = rowTable(row(), 1, names).rows
    expect(first!.slice(0, 6)).toEqual(['Varrow 12', 3, 10, 9, 11, 0])
    expect(first!.at(-1)).toBe('baseline')
    expect(second!.slice(8)).toEqual([10, 9.5, 10.5, 'behind'])
  })
})
