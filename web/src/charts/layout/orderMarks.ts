import type { Disturbance, FindingRow, RunSheet } from '@/api/types'

/** Runs that failed, and what disturbed the runs of a row, by lane and block. */
export type OrderMarks = {
  failed: { laneNo: number; block: number; says: string }[]
  /** `laneNo` is null where nothing of the row was under way: it then stands over all lanes. */
  disturbed: { laneNo: number | null; block: number; says: string }[]
}

/** Where failures and disturbances stand among a row's runs. */
export function orderMarks(row: FindingRow, sheet: RunSheet, noted: readonly Disturbance[]): OrderMarks {
  const lanes = new Set(row.lanes.map((lane) => lane.lane_no))
  const own = sheet.runs.filter((run) => lanes.has(run.lane_no) && run.procedure === row.procedure)
  const isAlike = (start: string | undefined) => !start || start === row.start
  const failed = own
    .filter((run) => run.state === 'failed' && isAlike(run.conditions['start']))
    .map((run) => ({ laneNo: run.lane_no, block: run.block, says: run.reason ?? 'failed' }))
  const disturbed = noted.flatMap((one): OrderMarks['disturbed'] => {
    const run = own.find((item) => item.id === one.run_id)
    if (run) return [{ laneNo: run.lane_no, block: run.block, says: one.text }]
    const before = own.filter((item) => item.started_at !== null && item.started_at <= one.at).at(-1)
    return before ? [{ laneNo: null, block: before.block, says: one.text }] : []
  })
  return { failed, disturbed }
}
