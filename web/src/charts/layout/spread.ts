import type { FindingRow, ReadingColumns } from '@/api/types'

import { linearAxis, type Axis } from './axis'
import { ofRow } from './rowReadings'

export type SpreadCurve = {
  laneNo: number
  path: string
  medianAt: { x: number; y: number } | null
  count: number
}

export type Spread = {
  axis: Axis
  curves: SpreadCurve[]
  shares: { y: number; label: string }[]
  top: number
  bottom: number
  height: number
}

const SHARES = [0, 0.25, 0.5, 0.75, 1]

/** How many of a lane's readings are at most so large: a step for each reading that counts. */
export function spread(
  row: FindingRow,
  columns: ReadingColumns,
  frame: { left: number; right: number; top: number; height: number },
): Spread {
  const readings = ofRow(row, columns).filter((one) => !one.isAside)
  const values = readings.map((one) => one.value)
  const domain = values.length ? ([Math.min(...values), Math.max(...values)] as const) : ([0, 1] as const)
  const axis = linearAxis(domain, [frame.left, frame.right], row.scale)
  const bottom = frame.top + frame.height
  const y = (share: number) => bottom - share * frame.height
  const curves = row.lanes.map((lane) => {
    const own = readings
      .filter((one) => one.laneNo === lane.lane_no)
      .map((one) => one.value)
      .sort((a, b) => a - b)
    const steps = own.map(
      (value, i) => `H${axis.place(value).toFixed(1)}V${y((i + 1) / own.length).toFixed(1)}`,
    )
    const median = lane.summary?.median ?? null
    return {
      laneNo: lane.lane_no,
      path: own.length ? `M${frame.left},${y(0)}${steps.join('')}H${frame.right}` : '',
      medianAt: median === null ? null : { x: axis.place(median), y: y(0.5) },
      count: own.length,
    }
  })
  const shares = SHARES.map((share) => ({ y: y(share), label: `${100 * share} %` }))
  return { axis, curves, shares, top: frame.top, bottom, height: bottom + 46 }
}
