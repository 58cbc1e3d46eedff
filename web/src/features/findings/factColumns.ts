import type { Study } from '@/api/types'

type Contender = Study['contenders'][number]

/** A system with its machines, in the order of their lanes. */
export type FactGroup = { name: string; contenders: readonly Contender[] }

/** Contenders with the same system on several machines stand side by side, as one group of columns. */
export function factGroups(contenders: readonly Contender[]): FactGroup[] {
  const groups = new Map<string, Contender[]>()
  for (const one of contenders) groups.set(one.entrant, [...(groups.get(one.entrant) ?? []), one])
  return [...groups].map(([name, own]) => ({ name, contenders: own }))
}
