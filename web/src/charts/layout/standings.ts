import type { Schemas } from '@/api/types'
import { amount, figure, moment } from '@/format/numbers'
import type { Table } from '@/format/table'

import { isSpreadOut, linearAxis, logAxis, type Axis } from './axis'

type Page = Schemas['StandingsPage']
type Line = Schemas['StandingLine']

export type StandingShape = {
  line: Line
  y: number
  x: number
  low: number | null
  high: number | null
  place: string
  says: string
}
export type BandShape = { name: string; middle: number; limit: number | null }
export type StandingsShape = {
  axis: Axis
  lanes: StandingShape[]
  bands: BandShape[]
  /** Where the names end, and where places, studies and runs stand; null where there is no room. */
  left: number
  right: number
  placeX: number
  studiesX: number | null
  top: number
  bottom: number
  height: number
  pennant: { x: number; side: 'left' | 'right' } | null
}

const LANE = 40
const TOP = 30
const AXIS = 34
const NARROW = 700

/** A place as it is said: `3 to 5`. */
export const placeSaid = ({ first, last }: { first: number; last: number }) =>
  first === last ? `${first}` : `${first} to ${last}`

/** A lane a system, the best on top: its figure as a post, its interval as a stretch, its place beside it. */
export function standingsShape(page: Page, width: number): StandingsShape {
  const scale = page.scale!
  const isNarrow = width < NARROW
  const left = isNarrow ? width * 0.5 : Math.min(360, width * 0.34)
  const placeX = isNarrow ? width - 52 : width - 176
  const right = placeX - 22
  const values = page.lines.flatMap(({ standing }) => [
    standing.value,
    standing.interval?.low ?? standing.value,
    standing.interval?.high ?? standing.value,
  ])
  const span = [Math.min(...values), Math.max(...values)] as const
  const make = isSpreadOut(values) ? logAxis : linearAxis
  const axis = make(span, [left, right], scale)
  const lanes = page.lines.map((line, i) => {
    const { standing } = line
    return {
      line,
      y: TOP + i * LANE + LANE / 2,
      x: axis.place(standing.value),
      low: standing.interval ? axis.place(standing.interval.low) : null,
      high: standing.interval ? axis.place(standing.interval.high) : null,
      place: placeSaid(standing.place),
      says: standingSaid(page, line),
    }
  })
  const bottom = TOP + page.lines.length * LANE
  return {
    axis,
    lanes,
    bands: bandShapes(page.bands, axis, [left, right]),
    left,
    right,
    placeX,
    studiesX: isNarrow ? null : width - 84,
    top: TOP,
    bottom,
    height: bottom + AXIS,
    pennant:
      page.good_end === 'low'
        ? { x: left, side: 'left' }
        : page.good_end === 'high'
          ? { x: right, side: 'right' }
          : null,
  }
}

/** The figure with its interval, and what has to be known beside it. */
export function standingSaid(page: Page, { standing, is_older }: Line): string {
  const scale = page.scale!
  const range = standing.interval
    ? ` (${figure(standing.interval.low, scale)} to ${figure(standing.interval.high, scale)})`
    : ', interval not known'
  const beside = [
    is_older ? 'older release' : '',
    standing.is_side_by_side ? '' : 'not measured side by side',
    standing.is_side_by_side && standing.studies === 1 && page.studies > 1 ? 'one study' : '',
    standing.failed ? `${standing.failed} of ${standing.runs} runs failed` : '',
  ].filter(Boolean)
  return [`${amount(standing.value, scale)}${range}`, ...beside].join(' · ')
}

function bandShapes(bands: Page['bands'], axis: Axis, [left, right]: readonly [number, number]): BandShape[] {
  if (!bands) return []
  const within = (x: number) => Math.min(right, Math.max(left, x))
  const ends = [left, ...bands.limits.map((limit) => within(axis.place(limit))), right]
  return bands.names
    .map((name, i) => ({
      name,
      middle: (ends[i]! + ends[i + 1]!) / 2,
      limit: i < bands.limits.length && ends[i + 1]! > left && ends[i + 1]! < right ? ends[i + 1]! : null,
      room: ends[i + 1]! - ends[i]!,
    }))
    .filter((band) => band.room > 30 || band.limit !== null)
}

/** The band of a figure, empty where none are set. */
export function bandOf(bands: Page['bands'], value: number): string {
  if (!bands) return ''
  const at = bands.limits.findIndex((limit) => value < limit)
  return bands.names[at < 0 ? bands.names.length - 1 : at] ?? ''
}

/** What the list says, as a table. */
export const standingsTable = (page: Page): Table => ({
  caption: `Standings: ${page.question?.label ?? ''}`,
  head: [
    'place',
    'system',
    page.scale?.label ?? '',
    'low',
    'high',
    'band',
    'side by side',
    'readings',
    'failed runs',
    'studies',
    'machines',
    'newest',
  ],
  rows: page.lines.map(({ standing }) => [
    placeSaid(standing.place),
    standing.system,
    figure(standing.value, page.scale!),
    standing.interval ? figure(standing.interval.low, page.scale!) : '',
    standing.interval ? figure(standing.interval.high, page.scale!) : '',
    bandOf(page.bands, standing.value),
    standing.is_side_by_side ? 'yes' : 'no',
    standing.readings,
    standing.failed,
    standing.studies,
    standing.machines,
    moment(standing.newest),
  ]),
})
