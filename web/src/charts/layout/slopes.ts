import { extent } from 'd3-array'

import type { FindingRow, Pair, ReadingColumns } from '@/api/types'
import { amount, signed } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'
import { ofRow } from './rowReadings'

/** A lane before and a lane after some change, of one row. */
export type Change = { row: FindingRow; before: number; after: number; label: string }

export type Slope = {
  key: string
  laneNo: number
  label: string
  from: number
  to: number
  fromLimits: readonly [number, number] | null
  toLimits: readonly [number, number] | null
  /** Block by block, where both were measured. */
  blocks: { from: number; to: number }[]
  says: string
  labelY: number
}

export type Slopes = { axis: Axis; slopes: Slope[]; bottom: number; height: number }

type Frame = { top: number; height: number }

const GAP = 30
const PERCENT = { label: '%', factor: 0.01, decimals: 0 }

const summaryOf = (row: FindingRow, laneNo: number) =>
  row.lanes.find((lane) => lane.lane_no === laneNo)?.summary ?? null

/** The change of B against A, as the row calculates it. */
export const pairOf = (change: Change): Pair | null =>
  change.row.pairs.find((pair) => pair.a === change.before && pair.b === change.after) ?? null

/** What a change brought, in amount and share: ``+0.9 s (+6 %)``. */
export function changeSaid(change: Change): string {
  const pair = pairOf(change)
  if (!pair) return ''
  const { scale } = change.row
  const size =
    pair.shift.value === null
      ? amount(null, scale)
      : `${signed(pair.shift.value, scale)} ${scale.label}`.trim()
  const ratio = pair.ratio?.value
  return ratio === null || ratio === undefined ? size : `${size} (${signed(ratio - 1, PERCENT)} %)`
}

/** Changes as slopes: amounts in the row's unit, or shares of what was before. */
export function slopes(
  changes: readonly Change[],
  columns: ReadingColumns,
  inShares: boolean,
  frame: Frame,
): Slopes {
  const made = changes.flatMap((change) => {
    const [before, after] = [summaryOf(change.row, change.before), summaryOf(change.row, change.after)]
    if (!before || !after || before.median === null || after.median === null) return []
    const unit = inShares ? before.median : 1
    if (unit === 0) return []
    const limits = (summary: typeof before) => {
      const found = summary.median_interval
      return found && found.low !== null && found.high !== null
        ? ([found.low / unit, found.high / unit] as const)
        : null
    }
    return [
      {
        change,
        from: before.median / unit,
        to: after.median / unit,
        fromLimits: limits(before),
        toLimits: limits(after),
        blocks: blockPairs(change, columns).map((pair) => ({ from: pair.from / unit, to: pair.to / unit })),
      },
    ]
  })
  const values = made.flatMap((one) => [
    one.from,
    one.to,
    ...(one.fromLimits ?? []),
    ...(one.toLimits ?? []),
    ...one.blocks.flatMap((b) => [b.from, b.to]),
  ])
  const [low = 0, high = 1] = extent(values)
  const scale = inShares ? PERCENT : (changes[0]?.row.scale ?? PERCENT)
  const bottom = frame.top + frame.height
  const axis = linearAxis([low, high], [bottom, frame.top], scale)
  const pair = (found: readonly [number, number] | null) =>
    found && ([axis.place(found[0]), axis.place(found[1])] as const)
  const drawn = made.map((one) => ({
    key: `${one.change.row.key} ${one.change.before} ${one.change.after}`,
    laneNo: one.change.after,
    label: one.change.label,
    from: axis.place(one.from),
    to: axis.place(one.to),
    fromLimits: pair(one.fromLimits),
    toLimits: pair(one.toLimits),
    blocks: one.blocks.map((b) => ({ from: axis.place(b.from), to: axis.place(b.to) })),
    says: changeSaid(one.change),
    labelY: axis.place(one.to),
  }))
  return { axis, slopes: dodged(drawn, frame.top, bottom), bottom, height: bottom + 34 }
}

function blockPairs(change: Change, columns: ReadingColumns): { from: number; to: number }[] {
  const counted = ofRow(change.row, columns).filter((one) => !one.isAside)
  const of = (laneNo: number) =>
    new Map(counted.filter((one) => one.laneNo === laneNo).map((one) => [one.block, one.value]))
  const after = of(change.after)
  return [...of(change.before)].flatMap(([block, from]) => {
    const to = after.get(block)
    return to === undefined ? [] : [{ from, to }]
  })
}

/** Labels pushed apart, so that each can be read beside its line. */
function dodged(found: Slope[], top: number, bottom: number): Slope[] {
  const ranked = [...found].sort((a, b) => a.to - b.to)
  let last = -Infinity
  for (const one of ranked) {
    one.labelY = last = Math.max(one.to, last + GAP, top)
  }
  const over = last - bottom
  if (over > 0) for (const one of ranked) one.labelY -= over
  return found
}

export function slopesTable(changes: readonly Change[]): Table {
  const unit = changes[0]?.row.scale.label || 'count'
  const factor = changes[0]?.row.scale.factor ?? 1
  const shown = (value: number | null | undefined) =>
    value === null || value === undefined ? null : value / factor
  return {
    caption: `${changes[0]?.row.label ?? ''}: before and after, ${unit}`,
    head: [
      'what',
      'machine',
      `before (${unit})`,
      `after (${unit})`,
      'difference',
      'least',
      'most',
      'share of before (%)',
      'verdict',
    ],
    rows: changes.map((change) => {
      const pair = pairOf(change)
      return [
        change.label,
        change.row.machine,
        shown(summaryOf(change.row, change.before)?.median),
        shown(summaryOf(change.row, change.after)?.median),
        shown(pair?.shift.value),
        shown(pair?.shift.interval.low),
        shown(pair?.shift.interval.high),
        pair?.ratio?.value ? 100 * pair.ratio.value : null,
        pair?.verdict ?? null,
      ]
    }),
  }
}
