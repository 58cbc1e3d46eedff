import { extent, group, max } from 'd3-array'

import type { FindingRow, ReadingColumns } from '@/api/types'

import { linearAxis } from './axis'
import type { OrderMarks } from './orderMarks'
import { ofRow } from './rowReadings'

export type OrderLane = {
  laneNo: number
  y: number
  marks: { id: string; x: number; y: number; isAside: boolean; block: number; value: number }[]
  median: number | null
  /** Blocks at which a condition of the lane changed, with what is said of it. */
  breaks: { x: number; says: string }[]
  failed: { x: number; y: number; says: string }[]
  disturbed: { x: number; says: string }[]
}

export type OrderLanes = {
  lanes: OrderLane[]
  blocks: { x: number; label: string }[]
  bottom: number
  height: number
}

export type OrderFrame = { left: number; right: number; top: number; laneHeight: number }

const MOST_LABELS = 12

const NONE: OrderMarks = { failed: [], disturbed: [] }

/** Readings by block, lane under lane, all on one scale: drift, a slow first run and breaks show. */
export function orderLanes(
  row: FindingRow,
  columns: ReadingColumns,
  frame: OrderFrame,
  noted = NONE,
): OrderLanes {
  const readings = ofRow(row, columns)
  const values = readings.map((one) => one.value)
  const last = Math.max(1, max(readings, (one) => one.block) ?? 1, ...noted.failed.map((one) => one.block))
  const x = (block: number) => frame.left + ((block - 0.5) / last) * (frame.right - frame.left)
  const room = frame.laneHeight - 20
  const [low = 0, high = 1] = extent(values)
  const { place } = linearAxis([low, high], [room, 0], row.scale)
  const byLane = group(readings, (one) => one.laneNo)
  const lanes = row.lanes.map((lane, i) => {
    const top = frame.top + i * frame.laneHeight
    const at = (value: number) => top + 10 + place(value)
    return {
      laneNo: lane.lane_no,
      y: top,
      marks: (byLane.get(lane.lane_no) ?? []).map((one) => ({
        id: one.id,
        x: x(one.block),
        y: at(one.value),
        isAside: one.isAside,
        block: one.block,
        value: one.value,
      })),
      median: lane.summary && lane.summary.median !== null ? at(lane.summary.median) : null,
      breaks: lane.breaks.flatMap((one) =>
        one.block === null
          ? []
          : [{ x: x(one.block - 0.5), says: `${one.label}: ${one.before}, then ${one.after}` }],
      ),
      failed: noted.failed
        .filter((one) => one.laneNo === lane.lane_no)
        .map((one) => ({
          x: x(one.block),
          y: top + frame.laneHeight - 12,
          says: `block ${one.block} failed: ${one.says}`,
        })),
      disturbed: noted.disturbed
        .filter((one) => one.laneNo === null || one.laneNo === lane.lane_no)
        .map((one) => ({ x: x(one.block), says: `block ${one.block}: ${one.says}` })),
    }
  })
  const step = Math.ceil(last / MOST_LABELS)
  const blocks = Array.from({ length: last }, (_, i) => i + 1)
    .filter((block) => block === 1 || block % step === 0)
    .map((block) => ({ x: x(block), label: String(block) }))
  const bottom = frame.top + lanes.length * frame.laneHeight
  return { lanes, blocks, bottom, height: bottom + 34 }
}
