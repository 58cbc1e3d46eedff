import { addressOf, titleOf } from '@/api/studyPage'
import type { Schemas, StudyDigest } from '@/api/types'

/** Somewhere to go: its name, the words by which it is found, and its address. */
export type Place = { kind: string; name: string; words: string; to: string }

type Thing = Schemas['ThingOut']
type Page = { path: string; label: string }

const place = (kind: string, name: string, to: string, more: readonly string[] = []): Place => ({
  kind,
  name,
  to,
  words: [name, ...more].join(' ').toLowerCase(),
})

/** Everything that can be gone to by its name, in the order in which it is shown. */
export const placesOf = (
  pages: readonly Page[],
  studies: readonly StudyDigest[],
  systems: readonly Thing[],
  machines: readonly Thing[],
): Place[] => [
  ...pages.map((page) => place('Pages', page.label, `/${page.path}`)),
  ...studies.map((study) =>
    place('Studies', titleOf(study), addressOf(study), [...study.contenders, ...study.machines]),
  ),
  ...systems.map((one) => place('Systems', one.name, `/library/systems/${one.id}`, one.aliases)),
  ...machines.map((one) => place('Machines', one.name, `/library/machines/${one.id}`, one.aliases)),
]
