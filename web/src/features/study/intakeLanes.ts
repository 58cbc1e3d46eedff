import type { IntakeItem } from '@/api/types'

export type IntakeLanes = {
  /** A lane number for each item: the one that a person chose, or 0 for the one that fits. */
  lanes: number[]
  /** How many captures fit no contender and have none chosen. */
  missing: number
}

/** Chosen in place of a lane for what is to join the study. */
export const NEW_CONTENDER = -1

export const needsLane = (item: IntakeItem) => item.asked !== 'readings' && !item.is_known

export function intakeLanes(
  items: readonly IntakeItem[],
  chosen: Readonly<Record<number, number>>,
): IntakeLanes {
  const lanes = items.map((_, place) => chosen[place] ?? 0)
  const missing = items.filter(
    (item, place) =>
      !item.is_known &&
      !chosen[place] &&
      (item.strangers.length > 0 || (needsLane(item) && item.lane_no === null)),
  ).length
  return { lanes, missing }
}
