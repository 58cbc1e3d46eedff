import type { Reliability, RunSheet } from '@/api/types'
import { percent } from '@/format/numbers'
import type { Table } from '@/format/table'

export type FailureLane = {
  laneNo: number
  y: number
  marks: { id: string; x: number; isFailed: boolean; says: string }[]
  says: string
  why: string
}

/** Every finished run of a lane in its order: a dot that did, a cross that failed, and why. */
export function failureLanes(
  found: Reliability,
  sheet: RunSheet,
  frame: { left: number; right: number; top: number; laneHeight: number },
) {
  const finished = sheet.runs.filter(
    (run) => run.procedure === found.procedure && (run.state === 'done' || run.state === 'failed'),
  )
  const most = Math.max(
    1,
    ...found.lanes.map((lane) => finished.filter((run) => run.lane_no === lane.lane_no).length),
  )
  const step = (frame.right - frame.left) / most
  const lanes = found.lanes.map((lane, i): FailureLane => ({
    laneNo: lane.lane_no,
    y: frame.top + i * frame.laneHeight,
    marks: finished
      .filter((run) => run.lane_no === lane.lane_no)
      .map((run, k) => ({
        id: run.id,
        x: frame.left + (k + 0.5) * step,
        isFailed: run.state === 'failed',
        says: `block ${run.block}: ${run.state === 'failed' ? (run.reason ?? 'failed') : 'done'}`,
      })),
    says: failedSaid(lane),
    why: whySaid(found, lane.lane_no),
  }))
  return {
    lanes,
    radius: Math.max(2, Math.min(5, step * 0.32)),
    height: frame.top + lanes.length * frame.laneHeight + 14,
  }
}

type Lane = Reliability['lanes'][number]

const failedSaid = (lane: Lane) =>
  [`${lane.failed} of ${lane.runs} failed`, lane.stalled ? `${lane.stalled} stalled` : '']
    .filter(Boolean)
    .join(', ')

const whySaid = (found: Reliability, laneNo: number) =>
  found.reasons
    .filter((one) => one.lane_no === laneNo)
    .map((one) => `${one.reason} (${one.runs})`)
    .join('; ')

/** Who fails most, in a few words. */
export function failuresSaid(found: Reliability, names: ReadonlyMap<number, string>): string {
  const worst = [...found.lanes].sort((a, b) => b.failed / (b.runs || 1) - a.failed / (a.runs || 1))[0]
  if (worst?.failed) return `${names.get(worst.lane_no)} failed ${worst.failed} of ${worst.runs} times`
  const stalled = [...found.lanes].sort((a, b) => b.stalled - a.stalled)[0]
  return stalled?.stalled
    ? `None failed; ${names.get(stalled.lane_no)} stalled ${stalled.stalled} of ${stalled.runs} times`
    : 'None failed or stalled'
}

export const failuresTable = (found: Reliability, names: ReadonlyMap<number, string>): Table => ({
  caption: `Reliability of ${found.procedure} on ${found.machine}`,
  head: ['contender', 'runs', 'failed', 'share failed', 'stalled', 'why'],
  rows: found.lanes.map((lane) => [
    names.get(lane.lane_no) ?? '',
    lane.runs,
    lane.failed,
    lane.runs ? percent(lane.failed / lane.runs) : null,
    lane.stalled,
    whySaid(found, lane.lane_no),
  ]),
})
