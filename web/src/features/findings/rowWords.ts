import type { FindingRow } from '@/api/types'
import { unitWord } from '@/format/numbers'

/** The start condition in words, behind a comma; nothing where there is none. */
export const startSaid = (row: Pick<FindingRow, 'start'>) =>
  row.start ? `, ${row.start.replaceAll('-', ' ')}` : ''

/** What a row measures, without its machine. */
export const measureSaid = (row: Pick<FindingRow, 'label' | 'start'>) => `${row.label}${startSaid(row)}`

/** Unit, machine, start, method and number of runs of a row. */
export function aboutRow(row: FindingRow): string {
  const used = row.lanes.reduce((sum, lane) => sum + (lane.summary?.n ?? 0), 0)
  return [unitWord(row.scale.label), row.machine, row.start?.replaceAll('-', ' '), `n = ${used}`]
    .filter(Boolean)
    .join(', ')
}

/** How a row's verdict is tinted: a first place that is shared is level. */
export const tagKind = (row: Pick<FindingRow, 'verdict' | 'is_shared'>) =>
  row.is_shared ? 'level' : row.verdict
