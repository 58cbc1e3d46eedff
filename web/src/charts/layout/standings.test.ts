import { expect, test } from 'vitest'

import type { Schemas } from '@/api/types'

import { bandOf, placeSaid, standingSaid, standingsShape, standingsTable } from './standings'

type Page = Schemas['StandingsPage']

const standing = (system: string, value: number, more: object = {}) => ({
  standing: {
    system,
    value,
    interval: { low: value - 5, high: value + 5 },
    place: { first: 1, last: 2 },
    is_side_by_side: true,
    failed: 0,
    runs: 16,
    readings: 16,
    studies: 2,
    machines: 1,
    newest: '2026-05-06T08:00:00Z',
    over_leader: 1,
    behind_leader: null,
    met_leader: 0,
    ahead_of: [],
    ...more,
  },
  system: null,
  desktop: null,
  is_older: false,
  measured: [],
})

const page = {
  question: { metric: 'memory.used', label: 'Idle memory', method: 'probe', start: '', facet: '' },
  scale: { label: 'MiB', factor: 1, decimals: 0 },
  good_end: 'low',
  machine: 'Laptop',
  bands: { names: ['light', 'heavy'], limits: [150] },
  studies: 3,
  lines: [
    standing('Varrow 12', 100),
    standing('Quillfern 8', 200, { interval: null, is_side_by_side: false, failed: 3 }),
  ],
} as unknown as Page

test('figures lie along the axis and the pennant stands at the good end', () => {
  const shape = standingsShape(page, 1200)
  expect(shape.lanes[0]!.x).toBeLessThan(shape.lanes[1]!.x)
  expect(shape.lanes[1]!.low).toBeNull()
  expect(shape.pennant).toEqual({ x: shape.left, side: 'left' })
  expect(shape.bands.map((band) => band.name)).toEqual(['light', 'heavy'])
  expect(standingsShape(page, 390).studiesX).toBeNull()
})

test('what has to be known of a place stands beside its figure', () => {
  expect(standingSaid(page, page.lines[0]!)).toBe('100 MiB (95 to 105)')
  expect(standingSaid(page, page.lines[1]!)).toBe(
    '200 MiB, interval not known · not measured side by side · 3 of 16 runs failed',
  )
  expect(placeSaid({ first: 3, last: 3 })).toBe('3')
})

test('a limit belongs to the band above it', () => {
  expect([149, 150].map((value) => bandOf(page.bands, value))).toEqual(['light', 'heavy'])
  expect(bandOf(null, 5)).toBe('')
})

test('the table holds every place', () => {
  const table = standingsTable(page)
  expect(table.rows.map((row) => row.slice(0, 3))).toEqual([
    ['1 to 2', 'Varrow 12', '100'],
    ['1 to 2', 'Quillfern 8', '200'],
  ])
})
