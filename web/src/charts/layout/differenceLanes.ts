import type { FindingRow, Pair } from '@/api/types'
import { signed } from '@/format/numbers'

import { linearAxis, type Axis } from './axis'
import { AXIS_HEIGHT, type Frame } from './readingLanes'

export type DifferenceShape = {
  laneNo: number
  y: number
  pair: Pair | null
  x: number
  low: number
  high: number
  label: string
}

export type DifferenceLanes = {
  axis: Axis
  lanes: DifferenceShape[]
  zero: number
  strip: readonly [number, number] | null
  bottom: number
  height: number
}

/**
 * The stretch of differences that do not matter, in the metric's unit: the wider of amount and
 * share, the share taken of the baseline's median.
 */
export function marginStrip(row: FindingRow, baseline: number): readonly [number, number] | null {
  const median = row.lanes.find((lane) => lane.lane_no === baseline)?.summary?.median ?? 0
  const { amount, share } = row.margin
  if (amount === null && share === null) return null
  const up = Math.max(amount ?? 0, median * (share ?? 0))
  const down = Math.max(amount ?? 0, median * (1 - 1 / (1 + (share ?? 0))))
  return [-down, up]
}

const present = (...values: (number | null)[]) => values.filter((value) => value !== null)

const differenceText = (value: number | null, row: FindingRow) =>
  value === null ? signed(value, row.scale) : `${signed(value, row.scale)} ${row.scale.label}`.trim()

/** Each lane's difference against the baseline with its interval; the baseline itself at zero. */
export function differenceLanes(row: FindingRow, baseline: number, frame: Frame): DifferenceLanes {
  const pairs = new Map(row.pairs.filter((p) => p.a === baseline).map((p) => [p.b, p]))
  const strip = marginStrip(row, baseline)
  const values = [0, ...(strip ?? [])]
  for (const { shift } of pairs.values())
    values.push(...present(shift.interval.low, shift.value, shift.interval.high))
  const domain = [Math.min(...values), Math.max(...values)] as const
  const axis = linearAxis(domain, [frame.left, frame.right], row.scale, true)
  const lanes = row.lanes.map((lane, i) => {
    const pair = pairs.get(lane.lane_no) ?? null
    const shift = pair?.shift
    return {
      laneNo: lane.lane_no,
      y: frame.top + i * frame.laneHeight,
      pair,
      x: shift && shift.value === null ? frame.right : axis.place(shift?.value ?? 0),
      // an interval left open by runs that timed out reaches to the picture's edge
      low: shift && shift.interval.low === null ? frame.left : axis.place(shift?.interval.low ?? 0),
      high: shift && shift.interval.high === null ? frame.right : axis.place(shift?.interval.high ?? 0),
      label: shift ? differenceText(shift.value, row) : '',
    }
  })
  const bottom = frame.top + lanes.length * frame.laneHeight
  return {
    axis,
    lanes,
    zero: axis.place(0),
    strip: strip && [axis.place(strip[0]), axis.place(strip[1])],
    bottom,
    height: bottom + AXIS_HEIGHT,
  }
}
