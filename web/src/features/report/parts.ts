/** The same with one of them a place further up (-1) or down (1). */
export function moved<T>(all: readonly T[], one: T, by: -1 | 1): T[] {
  const at = all.indexOf(one)
  const to = at + by
  if (at < 0 || to < 0 || to >= all.length) return [...all]
  const made = [...all]
  made[at] = all[to]!
  made[to] = one
  return made
}
