import type { Schemas } from '@/api/types'

type Line = Schemas['OutlookLine']

export type OutlookShape = {
  line: Line
  y: number
  /** Where the margin ends. */
  margin: number | null
  /** From where on a difference is told apart; null where none is. */
  told: number | null
}

export type OutlookLanes = { lanes: OutlookShape[]; left: number; right: number; top: number; height: number }

const LANE = 56
const TOP = 26
const MARGIN_SHARE = 0.3
/** The margin of every measure takes up so much of the lane: measures of all units stand below one another. */

/** One lane for each measure: its margin from the left, and the difference from which on it is told. */
export function outlookLanes(lines: readonly Line[], left: number, right: number): OutlookLanes {
  const room = right - left
  const lanes = lines.map((line, i) => {
    const { margin, smallest } = line.found
    const unit = margin === null ? null : (room * MARGIN_SHARE) / margin
    const told = unit === null || smallest === null ? null : left + smallest * unit
    return {
      line,
      y: TOP + i * LANE + LANE / 2,
      margin: unit === null ? null : left + room * MARGIN_SHARE,
      told: told === null ? null : Math.min(told, right - 4),
    }
  })
  return { lanes, left, right, top: TOP, height: TOP + lines.length * LANE + 6 }
}
