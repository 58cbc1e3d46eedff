import { expect, test } from 'vitest'

import type { Schemas } from '@/api/types'

import { overTimeLanes } from './overTime'

const point = (median: number, low: number | null, high: number | null) =>
  ({ study: String(median), title: 'Which?', median, low, high, n: 8, at: '2026-10-05T08:00:00Z' }) as never
const row = (...studies: never[]) =>
  ({
    label: 'Power-on to ready',
    scale: { label: 's', factor: 1, decimals: 1 },
    studies,
  }) as unknown as Schemas['OverTime']

test('each study has a lane of its own, on one axis', () => {
  const shape = overTimeLanes(row(point(10, 9, 11), point(12, null, null)), 800)
  expect(shape.lanes.map((one) => one.y)).toEqual([23, 57])
  expect(shape.lanes[0]!.low!).toBeLessThan(shape.lanes[0]!.x)
  expect(shape.lanes[1]!.x).toBeGreaterThan(shape.lanes[0]!.high!)
  expect(shape.lanes[1]!.low).toBeNull()
})

test('one study alone has its place within the picture', () => {
  const { lanes, left } = overTimeLanes(row(point(10, null, null)), 340)
  expect(lanes[0]!.x).toBeGreaterThan(left)
  expect(lanes[0]!.x).toBeLessThan(340)
})
