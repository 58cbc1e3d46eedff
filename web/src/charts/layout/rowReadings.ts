import type { FindingRow, ReadingColumns } from '@/api/types'

export type RowReading = {
  id: string
  runId: string
  laneNo: number
  block: number
  value: number
  setAside: string | null
  isAside: boolean
}

/** The readings that a row of the verdict sheet speaks of: its method, start and facet. */
export function ofRow(row: FindingRow, columns: ReadingColumns): RowReading[] {
  return columns.id.flatMap((id, i) => {
    const isOf =
      columns.method[i] === row.method && (columns.start[i] ?? null) === row.start && columns.facet[i] === row.facet
    const setAside = columns.set_aside[i] ?? null
    return isOf
      ? [{
          id, runId: columns.run_id[i]!, laneNo: columns.lane_no[i]!, block: columns.block[i]!,
          value: columns.value[i]!, setAside, isAside: setAside !== null,
        }]
      : []
  })
}
