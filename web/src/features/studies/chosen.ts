import type { StudyDigest } from '@/api/types'
import { holdsAll } from '@/format/typed'

export type Order = 'newest' | 'title' | 'machine'

export type Choice = { typed: string; state: string; order: Order }

export const ALL: Choice = { typed: '', state: '', order: 'newest' }

const words = (study: StudyDigest) =>
  [
    study.title,
    study.answer?.headline,
    study.answer?.about,
    ...study.contenders,
    ...study.machines,
    ...study.tags,
  ]
    .filter(Boolean)
    .join(' ')

const ORDERS: Record<Order, (a: StudyDigest, b: StudyDigest) => number> = {
  newest: (a, b) => b.created_at.localeCompare(a.created_at),
  title: (a, b) => a.title.localeCompare(b.title, 'en', { numeric: true }),
  machine: (a, b) => a.machines.join().localeCompare(b.machines.join(), 'en', { numeric: true }),
}

/** The studies that hold every word that was typed and stand where it was asked for, in the order asked for. */
export function chosen(studies: readonly StudyDigest[], choice: Choice): StudyDigest[] {
  return studies
    .filter((study) => !choice.state || study.state === choice.state)
    .filter((study) => holdsAll(words(study), choice.typed))
    .sort(ORDERS[choice.order])
}
