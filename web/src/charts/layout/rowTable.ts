import type { FindingRow } from '@/api/types'
import type { Table } from '@/format/table'

type Names = ReadonlyMap<number, string>

/** What the lanes of a row show: medians with their intervals, and differences against a baseline. */
export function rowTable(row: FindingRow, baseline: number, names: Names): Table {
  const unit = row.scale.label || 'count'
  const shown = (value: number | null | undefined) =>
    value === null || value === undefined ? null : value / row.scale.factor
  const pairs = new Map(row.pairs.filter((pair) => pair.a === baseline).map((pair) => [pair.b, pair]))
  return {
    caption: `${row.label} on ${row.machine}, ${unit}; differences against ${names.get(baseline) ?? ''}`,
    head: [
      'contender',
      'n',
      `median (${unit})`,
      'from',
      'to',
      'failed',
      'stalled',
      'set aside',
      'difference',
      'least',
      'most',
      'verdict',
    ],
    rows: row.lanes.map((lane) => {
      const [summary, pair] = [lane.summary, pairs.get(lane.lane_no)]
      return [
        names.get(lane.lane_no) ?? '',
        summary?.n ?? 0,
        shown(summary?.median),
        shown(summary?.median_interval?.low),
        shown(summary?.median_interval?.high),
        lane.failed,
        lane.stalled,
        lane.set_aside,
        shown(pair?.shift.value),
        shown(pair?.shift.interval.low),
        shown(pair?.shift.interval.high),
        lane.lane_no === baseline ? 'baseline' : (pair?.verdict ?? null),
      ]
    }),
  }
}
