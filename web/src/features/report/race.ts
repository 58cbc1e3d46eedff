import type { FindingRow, ReadingColumns } from '@/api/types'

/** A picture of the screen, from so many seconds after power-on. */
export type Shot = { at: number; png: string }

/**
 * A lane of a race: the run nearest its median, with the moments at which its parts ended, seconds, and
 * the pictures of its screen that were kept.
 */
export type Runner = { laneNo: number; runId: string; total: number; marks: number[]; shots: Shot[] }

/** Of each lane the run that is nearest its median, the soonest first; failed lanes run in no race. */
export function runners(row: FindingRow, columns: ReadingColumns): Runner[] {
  const found = row.lanes.flatMap((lane): Runner[] => {
    const median = lane.summary?.median
    if (median === undefined || median === null) return []
    let best = -1
    for (let i = 0; i < columns.value.length; i++) {
      if (columns.row[i] !== row.key || columns.lane_no[i] !== lane.lane_no || columns.set_aside[i] !== null)
        continue
      if (best < 0 || Math.abs(columns.value[i]! - median) < Math.abs(columns.value[best]! - median)) best = i
    }
    if (best < 0) return []
    return [
      {
        laneNo: lane.lane_no,
        runId: columns.run_id[best]!,
        total: columns.value[best]!,
        marks: [],
        shots: [],
      },
    ]
  })
  return found.sort((a, b) => a.total - b.total)
}

/** The same with where the parts of that very run ended; `parts` are in the order of the boot. */
export const withMarks = (all: readonly Runner[], parts: readonly ReadingColumns[]): Runner[] =>
  all.map((runner) => {
    let end = 0
    const marks = parts.flatMap((columns) => {
      const i = columns.run_id.indexOf(runner.runId)
      if (i < 0) return []
      end += columns.value[i]!
      return end < runner.total ? [end] : []
    })
    return { ...runner, marks }
  })

const LONGEST_S = 40
export const HOLD_S = 2.5

/** How many times as fast as it was a race is shown: in real time unless it took too long to watch. */
export function speedOf(all: readonly Runner[]): number {
  const longest = Math.max(...all.map((one) => one.total))
  return longest <= LONGEST_S ? 1 : Math.ceil(longest / LONGEST_S)
}

const OF_THE_SCREEN = /^screen-(\d+\.\d)\.png;base64$/

/** The pictures of a screen among the evidence of a run, in order. */
export const shotsOf = (evidence: readonly { name: string; text: string }[]): Shot[] =>
  evidence
    .flatMap(({ name, text }) => {
      const at = OF_THE_SCREEN.exec(name)?.[1]
      return at === undefined ? [] : [{ at: Number(at), png: text }]
    })
    .sort((a, b) => a.at - b.at)

/** What a screen showed at a moment; nothing before its first picture. */
export const shotAt = (shots: readonly Shot[], at: number): Shot | undefined =>
  shots.findLast((one) => one.at <= at)
