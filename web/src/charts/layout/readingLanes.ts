import type { FindingRow, ReadingColumns } from '@/api/types'

import { linearAxis, type Axis } from './axis'

export type LaneShape = {
  laneNo: number
  y: number
  ticks: { x: number; id: string; isAside: boolean }[]
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

export const AXIS_HEIGHT = 46

/** Readings, median and interval of every lane of a row, on one axis. */
export function readingLanes(row: FindingRow, columns: ReadingColumns, frame: Frame): ReadingLanes {
  const byLane = new Map<number, { id: string; value: number; isAside: boolean }[]>()
  const values: number[] = []
  columns.value.forEach((value, i) => {
    if (columns.method[i] !== row.method || (columns.start[i] ?? null) !== row.start || columns.facet[i] !== row.facet) return
    const lane = columns.lane_no[i]!
    const item = { id: columns.id[i]!, value, isAside: columns.set_aside[i] !== null }
    byLane.set(lane, [...(byLane.get(lane) ?? []), item])
    values.push(value)
  })
  for (const lane of row.lanes) {
    const interval = lane.summary?.median_interval
    if (interval) values.push(...[interval.low, interval.high].filter((limit) => limit !== null))
  }
  const domain = [Math.min(...values), Math.max(...values)] as const
  const axis = linearAxis(values.length ? domain : [0, 1], [frame.left, frame.right], row.scale)
  // beyond the time limit is beyond every reading: at the picture's edge
  const placed = (value: number | null) => (value === null ? frame.right : axis.place(value))
  const lanes = row.lanes.map((lane, i) => {
    const interval = lane.summary?.median_interval
    const items = byLane.get(lane.lane_no) ?? []
    return {
      laneNo: lane.lane_no,
      y: frame.top + i * frame.laneHeight,
      ticks: items.map((item) => ({ x: axis.place(item.value), id: item.id, isAside: item.isAside })),
      slowFirst: lane.slow_first && items[0] ? axis.place(items[0].value) : null,
      median: lane.summary ? placed(lane.summary.median) : null,
      interval: interval ? ([placed(interval.low), placed(interval.high)] as const) : null,
      failed: lane.failed,
    }
  })
  const bottom = frame.top + lanes.length * frame.laneHeight
  return { axis, lanes, bottom, height: bottom + AXIS_HEIGHT }
}
