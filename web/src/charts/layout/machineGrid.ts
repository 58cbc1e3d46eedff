import { extent } from 'd3-array'

import type { FindingRow, ReadingColumns } from '@/api/types'
import type { Table } from '@/format/table'

import { spanOf } from './readingLanes'

/** The rows of one measure on every machine. */
export const onMachines = (row: FindingRow, rows: readonly FindingRow[]) =>
  rows.filter(
    (one) =>
      one.metric === row.metric &&
      one.method === row.method &&
      one.facet === row.facet &&
      one.start === row.start,
  )

/** Machines further apart than this would leave each a corner of a shared axis. */
const MOST_APART = 4

/** The span that all machines share, or null where each is better drawn on its own. */
export function sharedSpan(rows: readonly FindingRow[], columns: ReadingColumns): [number, number] | null {
  const [low, high] = extent(rows.flatMap((row) => spanOf(row, columns) ?? []))
  return low === undefined || high === undefined || (low > 0 && high / low > MOST_APART) ? null : [low, high]
}

export function machinesTable(rows: readonly FindingRow[], names: ReadonlyMap<number, string>): Table {
  const { scale, label } = rows[0]!
  return {
    caption: `${label}, medians on each machine`,
    head: [
      'machine',
      'contender',
      'n',
      `median (${scale.label || 'count'})`,
      'failed',
      'verdict of the machine',
    ],
    rows: rows.flatMap((row) =>
      row.lanes.map((lane) => [
        row.machine,
        names.get(lane.lane_no) ?? '',
        lane.summary?.n ?? 0,
        lane.summary && lane.summary.median !== null ? lane.summary.median / scale.factor : null,
        lane.failed,
        row.leader === lane.lane_no ? row.verdict : row.leader === null ? row.verdict : null,
      ]),
    ),
  }
}
