import type { Trace } from '@/api/types'
import { amount, figure, type Scale } from '@/format/numbers'

import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

export type SettlingLane = {
  laneNo: number
  y: number
  curves: { runId: string; block: number; path: string; end: { x: number; y: number } }[]
  ticks: { y: number; label: string }[]
}

export type SettlingLanes = { axis: Axis; lanes: SettlingLane[]; bottom: number; height: number }

/** What a curve tells: its unit, and how a picture and a table call it. */
export type CurveOf = { scale: Scale; what: string; axis: string; from: string }

const MIB: Scale = { label: 'MiB', factor: 2 ** 20, decimals: 0 }
export const MEMORY: CurveOf = {
  scale: MIB,
  what: 'Memory after the boot, run over run',
  axis: 'memory in use, MiB, over seconds since boot; the mark: idle was declared',
  from: 'seconds since boot',
}
const SECONDS: Scale = { label: 's', factor: 1, decimals: 0 }

/** Each run's memory over the time since its boot, lane under lane on one scale; a curve ends where idle was declared. */
export function settlingLanes(
  traces: readonly Trace[],
  laneNos: readonly number[],
  frame: { left: number; right: number; top: number; laneHeight: number },
  scale: Scale = MIB,
): SettlingLanes {
  const own = traces.filter((one) => one.times_s.length > 1)
  const times = own.flatMap((one) => [one.times_s[0]!, one.times_s.at(-1)!])
  const values = own.flatMap((one) => one.values)
  const axis = linearAxis(
    times.length ? [Math.min(...times), Math.max(...times)] : [0, 1],
    [frame.left, frame.right],
    SECONDS,
  )
  const lowHigh = values.length ? ([Math.min(...values), Math.max(...values)] as const) : ([0, 1] as const)
  const up = linearAxis(lowHigh, [frame.laneHeight - 12, 12], scale)
  const lanes = laneNos
    .filter((laneNo) => own.some((one) => one.lane_no === laneNo))
    .map((laneNo, i) => {
      const top = frame.top + i * frame.laneHeight
      const at = (value: number) => top + up.place(value)
      const curves = own
        .filter((one) => one.lane_no === laneNo)
        .map((one) => {
          const points = one.times_s.map(
            (time, k) => `${axis.place(time).toFixed(1)},${at(one.values[k]!).toFixed(1)}`,
          )
          return {
            runId: one.run_id,
            block: one.block,
            path: `M${points.join('L')}`,
            end: { x: axis.place(one.times_s.at(-1)!), y: at(one.values.at(-1)!) },
          }
        })
      const ticks = [up.ticks[0], up.ticks.at(-1)]
        .filter((tick) => tick !== undefined)
        .map((tick) => ({ y: top + tick.x, label: tick.label }))
      return { laneNo, y: top, curves, ticks }
    })
  const bottom = frame.top + lanes.length * frame.laneHeight
  return { axis, lanes, bottom, height: bottom + 46 }
}

/** When idle was declared, in a few words. */
export function settlingSaid(traces: readonly Trace[]): string {
  const ends = traces.flatMap((one) => one.times_s.at(-1) ?? [])
  if (!ends.length) return 'No curve yet'
  const [low, high] = [Math.min(...ends).toFixed(0), Math.max(...ends).toFixed(0)]
  return low === high ? `Idle ${low} s after the boot` : `Idle ${low} to ${high} s after the boot`
}

export const settlingTable = (traces: readonly Trace[], names: ReadonlyMap<number, string>): Table => ({
  caption: 'Memory after each boot, MiB',
  head: ['contender', 'block', 'from (s)', 'memory then (MiB)', 'idle at (s)', 'memory at idle (MiB)'],
  rows: traces
    .filter((one) => one.times_s.length > 1)
    .map((one) => [
      names.get(one.lane_no) ?? '',
      one.block,
      one.times_s[0]!,
      one.values[0]! / MIB.factor,
      one.times_s.at(-1)!,
      one.values.at(-1)! / MIB.factor,
    ]),
})

/** The lowest and the highest of every curve that one of them came to. */
export function curvesSaid(traces: readonly Trace[], of: CurveOf): string {
  const values = traces.flatMap((one) => one.values)
  if (!values.length) return 'No curve yet'
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const span = low === high ? amount(low, of.scale) : `${figure(low, of.scale)} to ${amount(high, of.scale)}`
  return `${of.what}: ${span}`
}

/** The lowest and highest value of each run. */
export const rangesTable = (
  traces: readonly Trace[],
  names: ReadonlyMap<number, string>,
  of: CurveOf,
): Table => ({
  caption: `${of.what}, ${of.scale.label || 'count'}`,
  head: ['contender', 'block', 'lowest', 'highest', 'over (s)'],
  rows: traces.map((one) => [
    names.get(one.lane_no) ?? '',
    one.block,
    Math.min(...one.values) / of.scale.factor,
    Math.max(...one.values) / of.scale.factor,
    one.times_s.at(-1)! - one.times_s[0]!,
  ]),
})

const curveRows = (one: Trace, name: string, of: CurveOf) =>
  one.times_s.map((time, i): (string | number)[] => [name, one.block, time, one.values[i]! / of.scale.factor])

/** Every point of every curve, for keeping. */
export const curvesTable = (
  traces: readonly Trace[],
  names: ReadonlyMap<number, string>,
  of: CurveOf = MEMORY,
) => ({
  head: [
    'contender',
    'block',
    of.from,
    `${of === MEMORY ? 'memory' : of.what} (${of.scale.label || 'count'})`,
  ],
  rows: traces.flatMap((one) => curveRows(one, names.get(one.lane_no) ?? '', of)),
})
