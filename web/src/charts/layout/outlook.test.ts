import { expect, test } from 'vitest'

import type { Schemas } from '@/api/types'

import { outlookLanes } from './outlook'

const line = (margin: number | null, smallest: number | null) =>
  ({ label: 'Power-on to ready', found: { margin, smallest } }) as Schemas['OutlookLine']

test('margins of all units end at one place, and what is told lies beyond', () => {
  const { lanes, left } = outlookLanes([line(0.5, 1), line(2 ** 20, 3 * 2 ** 20)], 800)
  expect(lanes[0]!.margin).toBe(lanes[1]!.margin)
  expect(lanes[0]!.told! - left).toBeCloseTo(2 * (lanes[0]!.margin! - left))
  expect(lanes[1]!.told! - left).toBeCloseTo(3 * (lanes[1]!.margin! - left))
})

test('a difference far beyond the margin stays within the picture', () => {
  for (const width of [340, 800]) {
    const { lanes, right } = outlookLanes([line(0.1, 9)], width)
    expect(lanes[0]!.told!).toBeLessThan(right)
    expect(lanes[0]!.told!).toBeGreaterThan(lanes[0]!.margin!)
  }
})

test('nothing is drawn where nothing is known', () => {
  const { lanes } = outlookLanes([line(null, null), line(0.5, null)], 800)
  expect(lanes.map((one) => one.told)).toEqual([null, null])
  expect(lanes[0]!.margin).toBeNull()
})

test('on a narrow screen each name stands above its strip', () => {
  const { lanes, left } = outlookLanes([line(0.5, 1)], 330)
  expect(left).toBeLessThan(10)
  expect(lanes[0]!.nameY).toBeLessThan(lanes[0]!.y - 30)
})
