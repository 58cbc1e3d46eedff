import type { LiveMark } from './events'
import type { RunSheet, Study } from './types'

/** What a study's frame hands to the post that is shown. */
export type StudyContext = {
  study: Study
  sheet: RunSheet
  live: ReadonlyMap<string, LiveMark>
}

export const laneNames = (study: Study): ReadonlyMap<number, string> =>
  new Map(study.contenders.map((contender) => [contender.lane_no, contender.label]))
