import type { LivePhase } from './events'
import type { RunSheet, Study } from './types'

/** What a study's frame hands to the page that is shown. */
export type StudyContext = {
  study: Study
  sheet: RunSheet
  live: ReadonlyMap<string, LivePhase>
}

/** Names of who takes part, by lane: of one machine's lanes they are all different. */
export const entrantNames = (study: Study): ReadonlyMap<number, string> =>
  new Map(study.contenders.map((contender) => [contender.lane_no, contender.entrant]))

export const laneNames = (study: Study): ReadonlyMap<number, string> =>
  new Map(study.contenders.map((contender) => [contender.lane_no, contender.label]))
