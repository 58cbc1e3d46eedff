import type { BootParts } from '@/api/types'

import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

export type PartShape = {
  metric: string
  label: string
  from: number
  to: number
  seconds: number
  end: readonly [number, number] | null
  place: number
  isWait: boolean
}

export type PartLane = {
  laneNo: number
  y: number
  parts: PartShape[]
  runs: number
  total: number
  waited: number
}

export type PartLanes = {
  axis: Axis
  lanes: PartLane[]
  legend: { metric: string; label: string; method: string; place: number }[]
  bottom: number
  height: number
}

const SECONDS = { label: 's', factor: 1, decimals: 1 }

/** Parts in which the machine waits for a person: they are no part of how long it takes. */
const WAITS = new Set(['boot.menu'])

const lengthsOf = (lane: BootParts['lanes'][number], isOf: (metric: string) => boolean) =>
  lane.parts.filter((part) => isOf(part.metric)).reduce((sum, part) => sum + part.end - part.start, 0)

/** The ends of every lane's parts, for reading and keeping. */
export const bootPartsTable = (found: BootParts, names: ReadonlyMap<number, string>): Table => ({
  caption: `Parts of the boot on ${found.machine}, medians in seconds`,
  head: ['contender', 'part', 'took (s)', 'ends at (s)', 'from', 'to', 'is a wait'],
  rows: found.lanes.flatMap((lane) =>
    lane.parts.map((part): Table['rows'][number] => [
      names.get(lane.lane_no) ?? '',
      part.label,
      part.end - part.start,
      part.end,
      part.end_interval?.low ?? null,
      part.end_interval?.high ?? null,
      WAITS.has(part.metric) ? 'yes' : 'no',
    ]),
  ),
})

/** Each lane's boot as a chain of its parts, with the interval of every boundary. */
export function bootPartLanes(
  found: BootParts,
  frame: { left: number; right: number; top: number; laneHeight: number },
): PartLanes {
  const ends = found.lanes.flatMap((lane) =>
    lane.parts.flatMap((part) => [part.end, part.end_interval?.high ?? part.end]),
  )
  const axis = linearAxis(
    [0, Math.max(1, ...ends.map((end) => end ?? 0))],
    [frame.left, frame.right],
    SECONDS,
  )
  const places = new Map(found.sources.map((source, i) => [source.metric, i]))
  const lanes = found.lanes.map((lane, i) => ({
    laneNo: lane.lane_no,
    y: frame.top + i * frame.laneHeight,
    runs: lane.runs,
    waited: lengthsOf(lane, (metric) => WAITS.has(metric)),
    total: lengthsOf(lane, (metric) => !WAITS.has(metric)),
    parts: lane.parts.map((part) => ({
      metric: part.metric,
      label: part.label,
      from: axis.place(part.start),
      to: axis.place(part.end),
      seconds: part.end - part.start,
      end:
        part.end_interval && part.end_interval.low !== null && part.end_interval.high !== null
          ? ([axis.place(part.end_interval.low), axis.place(part.end_interval.high)] as const)
          : null,
      place: places.get(part.metric) ?? 0,
      isWait: WAITS.has(part.metric),
    })),
  }))
  const bottom = frame.top + lanes.length * frame.laneHeight
  const legend = found.sources.map((source, place) => ({ ...source, place }))
  return { axis, lanes, legend, bottom, height: bottom + 46 }
}
