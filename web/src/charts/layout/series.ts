import type { Schemas } from '@/api/types'
import { amount, figure } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

type Page = Schemas['SeriesPage']

export type SeriesPoint = {
  key: string
  x: number
  y: number
  name: string
  says: string
  isOdd: boolean
  /** Its limits, from low to high on the page; null where they are not known. */
  reach: { low: number; high: number } | null
  /** Whether there is room for its name. */
  isNamed: boolean
}
export type SeriesShape = {
  up: Axis
  points: SeriesPoint[]
  /** Control limits with their middle, where they are known. */
  limits: { low: number; middle: number; high: number } | null
  breaks: { x: number; what: string }[]
  bottom: number
  height: number
}

const HEIGHT = 320
/** So much room a month’s name takes, in pixels. */
const NAME_ROOM = 66

const month = (iso: string) => new Date(iso).toLocaleDateString('en-GB', { month: 'short', year: 'numeric' })
const share = (ratio: number) => `${ratio >= 1 ? '+' : '−'}${Math.abs(100 * (ratio - 1)).toFixed(1)} %`

const CHANGES: Record<string, string> = {
  more: 'beyond the margin',
  less: 'beyond the margin',
  level: 'within the margin',
  undecided: 'undecided',
}

/** A step from one release to the next, in words. */
export function stepSaid(one: Page['releases'][number]): string {
  if (one.ratio === null) return 'first of the series'
  const range = one.low === null ? 'interval not known' : `${share(one.low)} to ${share(one.high!)}`
  return `${share(one.ratio)} (${range}), ${CHANGES[one.change ?? ''] ?? ''}`
}

/** Releases one after the other, or months along the time, with limits and what changed on the way. */
export function seriesShape(page: Page, width: number): SeriesShape {
  const [left, right, top, bottom] = [70, width - 40, 24, HEIGHT - 46]
  const watched = page.watched
  const figures = [...page.releases.map((one) => one.figure), ...page.months.map((one) => one.median)]
  const known = [
    ...(watched?.low == null ? [] : [watched.low, watched.high!]),
    ...page.releases.flatMap((one) => (one.limits ? [one.limits.low, one.limits.high] : [])),
  ]
  const up = linearAxis(
    [Math.min(...figures, ...known), Math.max(...figures, ...known)],
    [bottom, top],
    page.scale!,
  )
  const along = (i: number, n: number) =>
    n < 2 ? (left + right) / 2 : left + 40 + (i * (right - left - 80)) / (n - 1)
  const times = page.months.map((one) => Date.parse(one.at))
  const [first, last] = [Math.min(...times), Math.max(...times)]
  const at = (time: number) =>
    last > first ? left + 30 + ((time - first) / (last - first)) * (right - left - 60) : (left + right) / 2
  const points = [
    ...page.releases.map((one, i) => ({
      key: one.system,
      x: along(i, page.releases.length),
      y: up.place(one.figure),
      name: one.system,
      says: `${amount(one.figure, page.scale!)}; ${stepSaid(one)}`,
      isOdd: one.change === 'more' || one.change === 'less',
      reach: one.limits && { low: up.place(one.limits.low), high: up.place(one.limits.high) },
      isNamed: true,
    })),
    ...page.months.map((one) => ({
      key: `${one.study} ${one.at}`,
      x: at(Date.parse(one.at)),
      y: up.place(one.median),
      name: month(one.at),
      says: `${amount(one.median, page.scale!)}, ${one.readings} readings`,
      isOdd: one.is_beyond,
      reach: null,
      isNamed: true,
    })),
  ]
  let named = -NAME_ROOM
  for (const point of points) {
    point.isNamed = page.releases.length > 0 || point.x - named >= NAME_ROOM
    if (point.isNamed) named = point.x
  }
  return {
    up,
    points,
    limits:
      watched?.centre == null
        ? null
        : {
            low: up.place(watched.low!),
            middle: up.place(watched.centre),
            high: up.place(watched.high!),
          },
    breaks: page.breaks
      .map((one) => ({ time: Date.parse(one.at), what: one.what }))
      .filter((one) => one.time >= first && one.time <= last)
      .map((one) => ({ x: at(one.time), what: one.what })),
    bottom,
    height: HEIGHT,
  }
}

/** What a series says, as a table. */
export const seriesTable = (page: Page): Table =>
  page.releases.length
    ? {
        caption: `Series: ${page.chosen?.label ?? ''}`,
        head: ['release', page.scale?.label ?? '', 'against the one before'],
        rows: page.releases.map((one) => [one.system, figure(one.figure, page.scale!), stepSaid(one)]),
      }
    : {
        caption: `Series: ${page.chosen?.label ?? ''}`,
        head: ['month', page.scale?.label ?? '', 'readings', 'limits'],
        rows: page.months.map((one) => [
          month(one.at),
          figure(one.median, page.scale!),
          one.readings,
          page.watched?.centre == null ? '' : one.is_beyond ? 'beyond' : 'within',
        ]),
      }
