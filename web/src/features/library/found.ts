import { holdsAll } from '@/format/typed'

import type { Thing } from '@/api/things'

const words = (thing: Thing): string =>
  [thing.name, ...thing.aliases, ...Object.values(thing.identity), ...Object.values(thing.stated)]
    .filter(Boolean)
    .join(' ')

/** The things that hold every word that was typed, in a name, an earlier name or what is stated. */
export const matching = (things: readonly Thing[], typed: string): Thing[] =>
  things.filter((thing) => holdsAll(words(thing), typed))
