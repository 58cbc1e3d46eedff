import type { Thing } from './library'

const words = (thing: Thing): string =>
  [thing.name, ...thing.aliases, ...Object.values(thing.identity), ...Object.values(thing.stated)]
    .filter(Boolean)
    .join(' ')
    .toLowerCase()

/** The things that hold every word that was typed, in a name, an earlier name or what is stated. */
export function matching(things: readonly Thing[], typed: string): Thing[] {
  const asked = typed.toLowerCase().split(/\s+/).filter(Boolean)
  return things.filter((thing) => asked.every((word) => words(thing).includes(word)))
}
