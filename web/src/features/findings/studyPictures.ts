import type { BootParts, FindingRow, Findings, Trace } from '@/api/types'
import { MEANINGS } from '@/charts/layout/definitions'

import type { Choice } from './PictureStrip'

const machinesOf = (rows: readonly FindingRow[]) => [...new Set(rows.map((row) => row.machine))]

/** Machines whose idle memory was read under two definitions at least. */
export const machinesWithDefinitions = (rows: readonly FindingRow[]) =>
  machinesOf(rows).filter((machine) => new Set(rows.filter((row) => row.machine === machine && row.facet === '' && row.metric in MEANINGS).map((row) => row.metric)).size > 1)

/** Rows that can be set against one another: of one machine, with a good end and two lanes at least. */
export const tradable = (rows: readonly FindingRow[], machine: string) =>
  rows.filter((row) => row.machine === machine && row.good_end !== 'none' && row.lanes.filter((lane) => lane.summary).length > 1)

/** The pictures of a whole study for which something was measured; the others are absent. */
export function studyPictures(findings: Findings, parts: readonly BootParts[], traces: readonly Trace[]): Choice[] {
  const { rows } = findings
  const first = rows[0]?.machine ?? ''
  return [
    { id: '', label: 'One measure' },
    ...(parts.length ? [{ id: 'parts', label: 'Parts of the boot' }] : []),
    ...(machinesWithDefinitions(rows).length ? [{ id: 'memory', label: 'Memory definitions' }] : []),
    ...(traces.some((one) => one.times_s.length > 1) ? [{ id: 'settling', label: 'Settling' }] : []),
    ...(tradable(rows, first).length > 1 ? [{ id: 'trade', label: 'Trade-off' }] : []),
    { id: 'facts', label: 'Facts' },
    { id: 'card', label: 'Race card' },
  ]
}
