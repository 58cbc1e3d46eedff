import type { FindingRow } from '@/api/types'

const place = (studyId: string) => `hm-rows-${studyId}`

/** The order that a person gave the rows of a study; what is not in it comes after, as it came. */
export function ordered(rows: readonly FindingRow[], keys: readonly string[]): FindingRow[] {
  const at = new Map(keys.map((key, i) => [key, i]))
  const rank = (row: FindingRow) => at.get(row.key) ?? keys.length
  return rows
    .map((row, i) => ({ row, i }))
    .sort((a, b) => rank(a.row) - rank(b.row) || a.i - b.i)
    .map((one) => one.row)
}

/** The keys with one of them moved to another's place. */
export function moved(keys: readonly string[], key: string, to: number): string[] {
  const rest = keys.filter((one) => one !== key)
  const place = Math.max(0, Math.min(rest.length, to))
  return [...rest.slice(0, place), key, ...rest.slice(place)]
}

export function keptOrder(studyId: string): string[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(place(studyId)) ?? '[]')
    return Array.isArray(found) ? found.map(String) : []
  } catch {
    return [] // what stands there is none of ours
  }
}

export const keepOrder = (studyId: string, keys: readonly string[]) =>
  localStorage.setItem(place(studyId), JSON.stringify(keys))
