import { useQuery } from '@tanstack/react-query'

import { marksQuery, type MarkKind } from '@/api/byHand'
import { useKept } from '@/ui/kept'

import { ownBase, ownName } from './race'

export type MarkListOf = { name: string; kinds: readonly string[]; isOwn: boolean }

const NO_LISTS: readonly MarkListOf[] = []

/** Lists of marks, the tester's own among them, and what each of their marks is. */
export function useMarkLists() {
  const marks = useQuery(marksQuery())
  const [own, setOwn] = useKept('lists', NO_LISTS)
  const lists = [...(marks.data?.lists ?? []).map((one): MarkListOf => ({ ...one, isOwn: false })), ...own]
  const kinds = new Map((marks.data?.kinds ?? []).map((one) => [one.key, one]))
  for (const kind of own.flatMap((one) => one.kinds)) {
    const base = kinds.get(ownBase(kind))
    if (base && !kinds.has(kind)) kinds.set(kind, named(base, kind))
  }
  const save = (list: MarkListOf) => setOwn([...own.filter((one) => one.name !== list.name), list])
  const drop = (name: string) => setOwn(own.filter((one) => one.name !== name))
  return { marks, lists, kinds: kinds as ReadonlyMap<string, MarkKind>, save, drop }
}

const named = (base: MarkKind, kind: string): MarkKind => ({ ...base, key: kind, label: ownName(kind) })
