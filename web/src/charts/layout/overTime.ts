import type { Schemas } from '@/api/types'

import { linearAxis, type Axis } from './axis'

type Row = Schemas['OverTime']
export type TimedShape = {
  point: Row['studies'][number]
  y: number
  x: number
  low: number | null
  high: number | null
}
export type OverTimeLanes = { axis: Axis; lanes: TimedShape[]; bottom: number; height: number; left: number }

const LANE = 34
const TOP = 6
const AXIS = 30

/** A lane for each study, the oldest first: its median as a post, the interval as a stretch. */
export function overTimeLanes(row: Row, width: number): OverTimeLanes {
  const left = Math.min(380, width * 0.48)
  const values = row.studies.flatMap((one) => [one.median, one.low ?? one.median, one.high ?? one.median])
  const axis = linearAxis([Math.min(...values), Math.max(...values)], [left, width - 20], row.scale)
  const lanes = row.studies.map((point, i) => ({
    point,
    y: TOP + i * LANE + LANE / 2,
    x: axis.place(point.median),
    low: point.low === null ? null : axis.place(point.low),
    high: point.high === null ? null : axis.place(point.high),
  }))
  const bottom = TOP + row.studies.length * LANE
  return { axis, lanes, bottom, height: bottom + AXIS, left }
}
