import type { StudyDigest } from './types'

/** The page of a study that a person wants to see: its plan before the start, its findings once all is done. */
export function addressOf(study: StudyDigest): string {
  const isDone = study.runs > 0 && study.finished === study.runs
  const page = study.state === 'draft' ? 'plan' : isDone ? 'findings' : 'run'
  return `/studies/${study.id}/${page}`
}

export const titleOf = (study: { title: string }) => study.title || 'A study to be planned'
