import type { FindingRow, ReadingColumns } from '@/api/types'

export type RowReading = {
  id: string
  runId: string
  laneNo: number
  block: number
  value: number
  setAside: string | null
  isAside: boolean
  /** What stood there before a person corrected it. */
  valueBefore: number | null
  /** To which it is good on either side, where that is known. */
  halfWidth: number | null
}

/** The readings that a row of the verdict sheet speaks of. */
export function ofRow(row: FindingRow, columns: ReadingColumns): RowReading[] {
  const found: RowReading[] = []
  for (let i = 0; i < columns.id.length; i++) {
    if (columns.row[i] !== row.key) continue
    const setAside = columns.set_aside[i] ?? null
    found.push({
      id: columns.id[i]!,
      runId: columns.run_id[i]!,
      laneNo: columns.lane_no[i]!,
      block: columns.block[i]!,
      value: columns.value[i]!,
      setAside,
      isAside: setAside !== null,
      valueBefore: columns.value_before[i] ?? null,
      halfWidth: columns.half_width[i] ?? null,
    })
  }
  return found
}
