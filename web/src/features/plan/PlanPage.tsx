import { useOutletContext } from 'react-router'

import type { StudyContext } from '@/api/studyContext'

import { DraftPage } from './DraftPage'
import { StandingPlan } from './StandingPlan'

/** The plan of a study: typed while it is a draft, to be read afterwards. */
export function PlanPage() {
  const { study } = useOutletContext<StudyContext>()
  return study.draft ? <DraftPage key={study.id} study={study} /> : <StandingPlan study={study} />
}
