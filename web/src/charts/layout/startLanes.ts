import { extent } from 'd3-array'

import type { FindingRow, ReadingColumns } from '@/api/types'
import type { Table } from '@/format/table'

import { isSpreadOut, type Axis } from './axis'
import { AXIS_HEIGHT, readingLanes, spanOf, type Frame, type LaneShape } from './readingLanes'

export type StartStrip = { start: string; middle: number; shape: LaneShape; median: number | null }
export type StartLane = { laneNo: number; y: number; strips: StartStrip[]; times: number | null }
export type StartLanes = { axis: Axis; lanes: StartLane[]; isLog: boolean; bottom: number; height: number }

/** From the coldest start on. */
const ORDER = ['first-ever', 'first-after-boot', 'cache-dropped', 'warm']

/** The rows of one measure that differ in the start condition alone, the coldest first. */
export const startsOf = (row: FindingRow, rows: readonly FindingRow[]) =>
  rows
    .filter(
      (one) =>
        one.metric === row.metric &&
        one.machine === row.machine &&
        one.method === row.method &&
        one.facet === row.facet &&
        one.start,
    )
    .sort((a, b) => ORDER.indexOf(a.start!) - ORDER.indexOf(b.start!))

const medianOf = (row: FindingRow, laneNo: number) =>
  row.lanes.find((lane) => lane.lane_no === laneNo)?.summary?.median ?? null

/** How many times the last (warmest) start the first (coldest) takes, by the medians. */
export function timesAsLong(rows: readonly FindingRow[], laneNo: number): number | null {
  const [cold, warm] = [medianOf(rows[0]!, laneNo), medianOf(rows.at(-1)!, laneNo)]
  return cold === null || !warm ? null : cold / warm
}

/** Each contender's starts as strips of one lane, all on one axis. */
export function startLanes(
  rows: readonly FindingRow[],
  columns: ReadingColumns,
  frame: Frame & { head?: number },
): StartLanes {
  const span = extent(rows.flatMap((row) => spanOf(row, columns) ?? [])) as
    [number, number] | [undefined, undefined]
  const shared = span[0] === undefined ? ([0, 1] as [number, number]) : span
  const isLog = isSpreadOut(shared)
  const shapes = rows.map((row) => readingLanes(row, columns, frame, { span: shared, isLog }))
  const head = frame.head ?? 0
  const room = (frame.laneHeight - head) / rows.length
  const lanes = rows[0]!.lanes.map(({ lane_no: laneNo }, i) => {
    const y = frame.top + i * frame.laneHeight
    const strips = rows.flatMap((row, k) => {
      const shape = shapes[k]!.lanes.find((lane) => lane.laneNo === laneNo)
      return shape
        ? [
            {
              start: row.start!.replaceAll('-', ' '),
              middle: y + head + (k + 0.5) * room,
              shape,
              median: medianOf(row, laneNo),
            },
          ]
        : []
    })
    return { laneNo, y, strips, times: timesAsLong(rows, laneNo) }
  })
  const bottom = frame.top + lanes.length * frame.laneHeight
  return { axis: shapes[0]!.axis, lanes, isLog, bottom, height: bottom + AXIS_HEIGHT }
}

/** How much longer a cold start takes than a warm one, in a few words. */
export function startsSaid(rows: readonly FindingRow[]): string {
  const times = rows[0]!.lanes.flatMap((lane) => timesAsLong(rows, lane.lane_no) ?? [])
  if (!times.length) return 'Only one start was measured'
  const [low, high] = [Math.min(...times).toFixed(1), Math.max(...times).toFixed(1)]
  return `Cold takes ${low === high ? low : `${low} to ${high}`} times as long as warm`
}

export function startsTable(rows: readonly FindingRow[], names: ReadonlyMap<number, string>): Table {
  const { scale, label } = rows[0]!
  return {
    caption: `${label}, medians by start condition, ${scale.label}`,
    head: [
      'contender',
      ...rows.map((row) => `${row.start!.replaceAll('-', ' ')} (${scale.label})`),
      'times as long',
    ],
    rows: rows[0]!.lanes.map(({ lane_no: laneNo }) => [
      names.get(laneNo) ?? '',
      ...rows.map((row) => {
        const median = medianOf(row, laneNo)
        return median === null ? null : median / scale.factor
      }),
      timesAsLong(rows, laneNo),
    ]),
  }
}
