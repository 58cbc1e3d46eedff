import type { LaneRamps } from '@/api/types'
import { amount, figure, type Scale } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

const MIB: Scale = { label: 'MiB', factor: 2 ** 20, decimals: 0 }
const GIB: Scale = { label: 'GiB', factor: 2 ** 30, decimals: 2 }
const PAGES: Scale = { label: 'pages', factor: 1, decimals: 0 }
const AXIS_HEIGHT = 46
/** So much room an end's words take, in pixels. */
const WORDS = { width: 130, height: 16 }

export type RampCurve = { runId: string; path: string; says: string }
/** Where a lane's ramps ended; what by is empty where that is said once for all, or has no room. */
export type RampEnd = { x: number; y: number; says: string; isAtLeast: boolean }
export type RampLane = { laneNo: number; curves: RampCurve[]; end: RampEnd | null }
export type RampShapes = {
  across: Axis
  up: Axis
  lanes: RampLane[]
  /** What ended all of them, where that is one thing. */
  endedBy: string | null
  /** Where the memory that there was lies, with its words. */
  memory: { y: number; label: string } | null
  bottom: number
  height: number
}

/** A size in MiB, from a GiB on in GiB. */
export const sizeText = (bytes: number) => amount(bytes, scaleOf(bytes))

const scaleOf = (bytes: number) => (bytes >= GIB.factor ? GIB : MIB)

/** Memory in use against pages open, runs over each other; what most runs of a lane ended with stands at their end. */
export function rampShapes(
  lanes: readonly LaneRamps[],
  frame: { left: number; right: number; top: number; bottom: number },
  noun = 'pages',
): RampShapes {
  const runs = lanes.flatMap((lane) => lane.runs)
  const memories = [...new Set(runs.map((run) => run.memory).filter((one) => one !== null))]
  const memory = memories.length === 1 ? memories[0]! : null
  const most = Math.max(1, ...runs.map((run) => run.used.length))
  const values = runs.flatMap((run) => run.used)
  const shownMemory = memory !== null && memory < 4 * Math.max(...values, 1) ? memory : null
  const across = linearAxis([1, most + 1], [frame.left, frame.right], { ...PAGES, label: noun })
  const up = linearAxis(
    [0, Math.max(...values, shownMemory ?? 0, MIB.factor)],
    [frame.bottom, frame.top],
    MIB,
  )
  const ended = new Set(lanes.filter((lane) => lane.runs.length > 0).map(usualEnd))
  const said: RampEnd[] = []
  const end = (lane: LaneRamps) => {
    const found = endOf(lane, across, up)
    if (found === null) return null
    const hasRoom = said.every(
      (one) => Math.abs(one.x - found.x) > WORDS.width || Math.abs(one.y - found.y) > WORDS.height,
    )
    if (ended.size === 1 || !hasRoom) return { ...found, says: '' }
    said.push(found)
    return found
  }
  const place = (page: number, value: number) =>
    `${across.place(page).toFixed(1)},${up.place(value).toFixed(1)}`
  return {
    across: { ...across, ticks: across.ticks.filter((tick) => !tick.label.includes('.')) },
    up,
    lanes: lanes.map((lane) => ({
      laneNo: lane.lane_no,
      curves: lane.runs
        .filter((run) => run.used.length > 0)
        .map((run) => ({
          runId: run.run_id,
          path: `M${run.used.map((value, i) => place(i + 1, value)).join('L')}`,
          says: `${run.carried} carried; ended by: ${run.ended}`,
        })),
      end: end(lane),
    })),
    endedBy: ended.size === 1 ? [...ended][0]! : null,
    memory: shownMemory === null ? null : { y: up.place(shownMemory), label: sizeText(shownMemory) },
    bottom: frame.bottom,
    height: frame.bottom + AXIS_HEIGHT,
  }
}

function endOf(lane: LaneRamps, across: Axis, up: Axis): RampEnd | null {
  const ends = lane.runs.filter((run) => run.used.length > 0).sort((a, b) => a.carried - b.carried)
  const middle = ends[Math.floor((ends.length - 1) / 2)]
  if (!middle) return null
  return {
    x: across.place(middle.carried),
    y: up.place(middle.used.at(-1)!),
    says: usualEnd(lane),
    isAtLeast: lane.is_at_least,
  }
}

/** What ended most of a lane's ramps. */
export function usualEnd(lane: LaneRamps): string {
  const counts = new Map<string, number>()
  for (const run of lane.runs) counts.set(run.ended, (counts.get(run.ended) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? ''
}

/** What is needed, with its limits in the same unit. */
function needText({ typical, low, high }: NonNullable<LaneRamps['need']>): string {
  const scale = scaleOf(typical)
  return `${amount(typical, scale)} (${figure(low, scale)} to ${figure(high, scale)})`
}

const range = (lane: LaneRamps) => {
  const counts = lane.runs.map((run) => run.carried)
  const [low, high] = [Math.min(...counts), Math.max(...counts)]
  return low === high ? `${low}` : `${lane.carried} (${low} to ${high})`
}

/** What each lane carried and needs, as a table. */
export const rampTable = (
  lanes: readonly LaneRamps[],
  names: ReadonlyMap<number, string>,
  pages: number,
  noun = 'pages',
): Table => ({
  caption: 'Load ramps',
  head: ['contender', 'ramps', `${noun} carried`, 'ended by', 'with none', 'each', `${pages} ${noun} need`],
  rows: lanes.map((lane) => [
    names.get(lane.lane_no) ?? '',
    lane.runs.length,
    `${lane.is_at_least ? 'at least ' : ''}${range(lane)}`,
    usualEnd(lane),
    lane.base === null ? '' : sizeText(lane.base),
    lane.step === null ? '' : sizeText(lane.step),
    lane.need === null ? 'not measured' : needText(lane.need),
  ]),
})
