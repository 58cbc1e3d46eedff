import { extent, group } from 'd3-array'

import type { FindingRow, ReadingColumns } from '@/api/types'

import { isSpreadOut, linearAxis, logAxis, type Axis } from './axis'
import { ofRow, type RowReading } from './rowReadings'

export type LaneShape = {
  laneNo: number
  y: number
  /** `reach`: pixels on either side to which a reading is good, where that is to be seen. */
  ticks: { x: number; id: string; isAside: boolean; reach: number }[]
  /** Figures quoted from elsewhere, from where to where. */
  quoted: { id: string; from: number; to: number }[]
  /** Where readings are too many for a tick each: how many stand at a place, the most being 1. */
  bars: { x: number; share: number }[]
  /** Where the first run stands, if it was far slower than the rest. */
  slowFirst: number | null
  median: number | null
  interval: readonly [number, number] | null
  failed: number
}

export type ReadingLanes = {
  axis: Axis
  lanes: LaneShape[]
  height: number
  bottom: number
}

export type Frame = { left: number; right: number; top: number; laneHeight: number }

/** A span that several pictures share, and whether its steps are ratios. */
export type AxisWish = { span?: readonly [number, number]; isLog?: boolean }

/** A figure from elsewhere, for a lane; `low` and `high` are alike where it is one. */
export type QuotedFigure = { id: string; lane_no: number; low: number; high: number }

const LEAST_REACH = 1.5

export const AXIS_HEIGHT = 46

/** Above so many readings a lane shows how many stand where, and no tick for each. */
export const MOST_TICKS = 60
const BAR = 3

/** The span of a row's readings and intervals; null where it has none. */
export function spanOf(row: FindingRow, columns: ReadingColumns): [number, number] | null {
  const limits = row.lanes.flatMap((lane) => {
    const found = lane.summary?.median_interval
    return found ? [found.low, found.high].filter((limit) => limit !== null) : []
  })
  const [low, high] = extent([...limits, ...(extent(ofRow(row, columns), (one) => one.value) as number[])])
  return low === undefined || high === undefined ? null : [low, high]
}

/** Whether a log scale would serve a row's lanes better. */
export function servesLog(rows: readonly FindingRow[], columns: ReadingColumns): boolean {
  return isSpreadOut(rows.flatMap((row) => spanOf(row, columns) ?? []))
}

/** Readings, median and interval of every lane of a row, on one axis. */
export function readingLanes(
  row: FindingRow,
  columns: ReadingColumns,
  frame: Frame,
  wish: AxisWish = {},
  quoted: readonly QuotedFigure[] = [],
): ReadingLanes {
  const byLane = group(ofRow(row, columns), (one) => one.laneNo)
  const found = wish.span ?? spanOf(row, columns) ?? [0, 1]
  const span = extent([...found, ...quoted.flatMap((one) => [one.low, one.high])]) as [number, number]
  const isLog = wish.isLog === true && span[0] > 0
  const axis = (isLog ? logAxis : linearAxis)(span, [frame.left, frame.right], row.scale)
  // beyond the time limit is beyond every reading: at the picture's edge
  const placed = (value: number | null) => (value === null ? frame.right : axis.place(value))
  const lanes = row.lanes.map((lane, i) => {
    const interval = lane.summary?.median_interval
    const items = byLane.get(lane.lane_no) ?? []
    const isMany = items.length > MOST_TICKS
    return {
      laneNo: lane.lane_no,
      y: frame.top + i * frame.laneHeight,
      ticks: items
        .filter((item) => !isMany || item.isAside)
        .map((item) => ({
          x: axis.place(item.value),
          id: item.id,
          isAside: item.isAside,
          reach: reachOf(item, axis),
        })),
      quoted: quoted
        .filter((one) => one.lane_no === lane.lane_no)
        .map((one) => ({ id: one.id, from: axis.place(one.low), to: axis.place(one.high) })),
      bars: isMany ? barsOf(items, axis) : [],
      slowFirst: lane.slow_first && items[0] ? axis.place(items[0].value) : null,
      median: lane.summary ? placed(lane.summary.median) : null,
      interval: interval ? ([placed(interval.low), placed(interval.high)] as const) : null,
      failed: lane.failed,
    }
  })
  const bottom = frame.top + lanes.length * frame.laneHeight
  return { axis, lanes, bottom, height: bottom + AXIS_HEIGHT }
}

function reachOf({ value, halfWidth }: RowReading, axis: Axis): number {
  if (halfWidth === null) return 0
  const pixels = axis.place(value + halfWidth) - axis.place(value)
  return pixels < LEAST_REACH ? 0 : pixels
}

/** A single far-out reading stays to be seen beside hundreds. */
const LEAST_SHARE = 0.14

function barsOf(items: readonly RowReading[], axis: Axis): { x: number; share: number }[] {
  const counts = new Map<number, number>()
  for (const item of items) {
    if (item.isAside) continue
    const bin = Math.round(axis.place(item.value) / BAR)
    counts.set(bin, (counts.get(bin) ?? 0) + 1)
  }
  const most = Math.max(...counts.values())
  return [...counts].map(([bin, n]) => ({
    x: bin * BAR,
    share: LEAST_SHARE + (1 - LEAST_SHARE) * (n / most),
  }))
}
