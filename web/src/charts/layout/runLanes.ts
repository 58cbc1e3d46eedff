import { median, quantileSorted } from 'd3-array'

import type { Run, RunSheet } from '@/api/types'

export type RunMark = {
  run: Run
  x: number
  /** Pixels below the lane's line; a longer run stands higher. */
  dy: number
  kind: 'reading' | 'failed' | 'live' | 'planned' | 'void'
  isBeyond: boolean
}

export type RunLane = {
  laneNo: number
  y: number
  marks: RunMark[]
  done: number
  planned: number
  median: number | null
}

export type RunLanes = { lanes: RunLane[]; markRadius: number; height: number }

export type RunFrame = { left: number; right: number; laneHeight: number; lineAt: number }

const REACH = 19

const KINDS: Record<Run['state'], RunMark['kind']> = {
  planned: 'planned',
  leased: 'live',
  running: 'live',
  done: 'reading',
  failed: 'failed',
  skipped: 'void',
  void: 'void',
}

/** Every run as a mark above or below its lane's median so far. */
export function runLanes(sheet: RunSheet, laneNos: readonly number[], frame: RunFrame): RunLanes {
  const shown = sheet.runs.filter((run) => !sheet.procedure || run.procedure === sheet.procedure)
  const columns = Math.max(1, ...countPerLane(shown).values())
  const step = (frame.right - frame.left) / Math.max(columns, 2)
  const byLane = laneNos.map((laneNo) => shown.filter((run) => run.lane_no === laneNo))
  const deviations = byLane.map(againstRunningMedian)
  const unit = unitOf(deviations.flat(), sheet.margin_amount)
  const lanes = byLane.map((runs, i) => ({
    laneNo: laneNos[i]!,
    y: i * frame.laneHeight,
    marks: runs.map((run, k) => markOf(run, frame.left + step * (k + 0.5), deviations[i]![k]!, unit)),
    done: runs.filter((run) => run.state === 'done' || run.state === 'failed').length,
    planned: runs.length,
    median: median(valuesOf(runs)) ?? null,
  }))
  return {
    lanes,
    markRadius: Math.max(2.2, Math.min(5, step * 0.32)),
    height: lanes.length * frame.laneHeight,
  }
}

const valuesOf = (runs: readonly Run[]) =>
  runs.flatMap((run) => (run.value === null || run.is_set_aside ? [] : [run.value]))

function countPerLane(runs: readonly Run[]): Map<number, number> {
  const counts = new Map<number, number>()
  for (const run of runs) counts.set(run.lane_no, (counts.get(run.lane_no) ?? 0) + 1)
  return counts
}

/** Each value minus the median of the lane's values up to the end of its second run, or so far. */
export function againstRunningMedian(runs: readonly Run[]): (number | null)[] {
  const values = valuesOf(runs)
  const early = median(values.slice(0, 3))
  const soFar: number[] = []
  return runs.map((run) => {
    if (run.value === null) return null
    if (!run.is_set_aside) soFar.push(run.value)
    const middle = soFar.length < 3 ? early : median(soFar)
    return run.value - (middle ?? run.value)
  })
}

/** Canonical units in the reach of a mark: most deviations fit, and noise far under the margin stays small. */
function unitOf(deviations: readonly (number | null)[], margin: number | null): number {
  const sizes = deviations.flatMap((d) => (d === null ? [] : [Math.abs(d)])).sort((a, b) => a - b)
  const most = sizes.length ? quantileSorted(sizes, 0.93)! : 0
  return Math.max(most, (margin ?? 0) * 1.2) || 1
}

function markOf(run: Run, x: number, deviation: number | null, unit: number): RunMark {
  const kind = run.state === 'done' && deviation === null ? 'void' : KINDS[run.state]
  const share = (deviation ?? 0) / unit
  return { run, x, kind, dy: -REACH * Math.max(-1, Math.min(1, share)) || 0, isBeyond: Math.abs(share) > 1 }
}
