import type { Schemas } from '@/api/types'

type Line = Schemas['OutlookLine']

export type OutlookShape = {
  line: Line
  /** Where its name stands, and the middle of its strip. */
  nameY: number
  y: number
  /** Where the margin ends. */
  margin: number | null
  /** From where on a difference is told apart; null where none is. */
  told: number | null
}

export type OutlookLanes = {
  lanes: OutlookShape[]
  left: number
  right: number
  height: number
}

const TOP = 26
const NARROW = 480
const MOST_SHARE = 0.3
const LEAST_SHARE = 0.08
/** The margin of every measure takes up the same of the lane, at most so much: measures of all units stand below one
 * another, and the largest difference that is told still finds its place. */

/** One lane for each measure: its margin from the left, and the difference from which on it is told. */
export function outlookLanes(lines: readonly Line[], width: number): OutlookLanes {
  const isNarrow = width < NARROW
  const laneHeight = isNarrow ? 84 : 56
  const [left, right] = [isNarrow ? 4 : Math.min(width * 0.52, 330), width - 8]
  const room = right - left
  const ratios = lines.map(({ found }) => (found.smallest ?? 0) / (found.margin ?? 1))
  const share = Math.max(LEAST_SHARE, Math.min(MOST_SHARE, 0.85 / Math.max(...ratios, 1)))
  const lanes = lines.map((line, i) => {
    const { margin, smallest } = line.found
    const unit = margin === null ? null : (room * share) / margin
    const told = unit === null || smallest === null ? null : left + smallest * unit
    const top = TOP + i * laneHeight
    const y = isNarrow ? top + 58 : top + laneHeight / 2
    return {
      line,
      nameY: isNarrow ? top + 14 : y - 4,
      y,
      margin: unit === null ? null : left + room * share,
      told: told === null ? null : Math.min(told, right - 4),
    }
  })
  return { lanes, left, right, height: TOP + lines.length * laneHeight + 6 }
}
