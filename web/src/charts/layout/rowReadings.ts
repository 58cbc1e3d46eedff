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

/** The readings that a row of the verdict sheet speaks of: of its lanes, method, start and facet. */
export function ofRow(row: FindingRow, columns: ReadingColumns): RowReading[] {
  const lanes = new Set(row.lanes.map((lane) => lane.lane_no))
  const found: RowReading[] = []
  for (let i = 0; i < columns.id.length; i++) {
    const laneNo = columns.lane_no[i]!
    if (columns.method[i] !== row.method || (columns.start[i] ?? null) !== row.start) continue
    if (columns.facet[i] !== row.facet || !lanes.has(laneNo)) continue
    const setAside = columns.set_aside[i] ?? null
    found.push({
      id: columns.id[i]!, runId: columns.run_id[i]!, laneNo, block: columns.block[i]!,
      value: columns.value[i]!, setAside, isAside: setAside !== null,
    })
  }
  return found
}
