import { describe, expect, it } from 'vitest'

import type { FindingRow, ReadingColumns } from '@/api/types'

import { moved } from './parts'
import { runners, shotAt, shotsOf, speedOf, withMarks } from './race'
import { placeIn } from './videoFrame'

const columns = (values: readonly [string, number, number, string | null][], row = 'r') =>
  ({
    run_id: values.map((one) => one[0]),
    lane_no: values.map((one) => one[1]),
    value: values.map((one) => one[2]),
    set_aside: values.map((one) => one[3]),
    row: values.map(() => row),
  }) as unknown as ReadingColumns

const row = {
  key: 'r',
  lanes: [
    { lane_no: 1, summary: { median: 10 } },
    { lane_no: 2, summary: { median: 8 } },
    { lane_no: 3, summary: null },
  ],
} as unknown as FindingRow

describe('a race', () => {
  it('is run by the runs nearest the medians, without what was set aside', () => {
    const found = runners(
      row,
      columns([
        ['a', 1, 9, null],
        ['b', 1, 10.2, null],
        ['c', 1, 10, 'door open'],
        ['d', 2, 8.5, null],
      ]),
    )
    expect(found.map((one) => [one.laneNo, one.runId, one.total])).toEqual([
      [2, 'd', 8.5],
      [1, 'b', 10.2],
    ])
  })

  it('carries marks where the parts of that very run ended', () => {
    const all = [{ laneNo: 1, runId: 'b', total: 10, marks: [], shots: [] }]
    const parts = [columns([['b', 1, 3, null]]), columns([['x', 1, 9, null]]), columns([['b', 1, 4, null]])]
    expect(withMarks(all, parts)[0]!.marks).toEqual([3, 7])
  })

  it('shows of a screen what it last showed, from its first picture on', () => {
    const shots = shotsOf([
      { name: 'screen-12.5.png;base64', text: 'desktop' },
      { name: 'ready-picture.png;base64', text: 'large' },
      { name: 'screen-3.0.png;base64', text: 'logo' },
    ])
    expect(shots.map((one) => one.at)).toEqual([3, 12.5])
    expect([2, 3, 12.4, 99].map((at) => shotAt(shots, at)?.png)).toEqual([
      undefined,
      'logo',
      'logo',
      'desktop',
    ])
  })

  it('is shown in real time unless it takes too long to watch', () => {
    const took = (total: number) => [{ laneNo: 1, runId: 'a', total, marks: [], shots: [] }]
    expect(speedOf(took(39))).toBe(1)
    expect(speedOf(took(100))).toBe(3)
  })
})

it('moves a part by one place, and not over the edge', () => {
  expect(moved(['a', 'b', 'c'], 'b', -1)).toEqual(['b', 'a', 'c'])
  expect(moved(['a', 'b', 'c'], 'c', 1)).toEqual(['a', 'b', 'c'])
})

it('fills a frame of a video with a picture, whole and in the middle', () => {
  const at = placeIn({ width: 940, height: 400 })
  expect(at.width).toBeCloseTo(1840)
  expect(at.y).toBeCloseTo((1080 - at.height) / 2)
  expect(placeIn({ width: 940, height: 1200 }).height).toBeCloseTo(1000)
})
