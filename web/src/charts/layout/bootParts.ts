import type { BootParts } from '@/api/types'

import { linearAxis, type Axis } from './axis'

export type PartShape = { metric: string; label: string; from: number; to: number; seconds: number; end: readonly [number, number] | null; place: number }

export type PartLane = { laneNo: number; y: number; parts: PartShape[]; runs: number }

export type PartLanes = { axis: Axis; lanes: PartLane[]; legend: { metric: string; label: string; method: string; place: number }[]; bottom: number; height: number }

const SECONDS = { label: 's', factor: 1, decimals: 1 }

/** Each lane's boot as a chain of its parts, with the interval of every boundary. */
export function bootPartLanes(found: BootParts, frame: { left: number; right: number; top: number; laneHeight: number }): PartLanes {
  const ends = found.lanes.flatMap((lane) => lane.parts.flatMap((part) => [part.end, part.end_interval?.high ?? part.end]))
  const axis = linearAxis([0, Math.max(1, ...ends.map((end) => end ?? 0))], [frame.left, frame.right], SECONDS)
  const places = new Map(found.sources.map((source, i) => [source.metric, i]))
  const lanes = found.lanes.map((lane, i) => ({
    laneNo: lane.lane_no,
    y: frame.top + i * frame.laneHeight,
    runs: lane.runs,
    parts: lane.parts.map((part) => ({
      metric: part.metric, label: part.label, from: axis.place(part.start), to: axis.place(part.end), seconds: part.end - part.start,
      end: part.end_interval && part.end_interval.low !== null && part.end_interval.high !== null
        ? ([axis.place(part.end_interval.low), axis.place(part.end_interval.high)] as const)
        : null,
      place: places.get(part.metric) ?? 0,
    })),
  }))
  const bottom = frame.top + lanes.length * frame.laneHeight
  const legend = found.sources.map((source, place) => ({ ...source, place }))
  return { axis, lanes, legend, bottom, height: bottom + 46 }
}
