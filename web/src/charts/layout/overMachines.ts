import type { PairOverMachines } from '@/api/types'
import type { Table } from '@/format/table'

import { logAxis, type Axis } from './axis'

type Pair = PairOverMachines

export type RatioLine = {
  label: string
  y: number
  x: number
  low: number
  high: number
  says: string
  isTogether: boolean
}
export type RatioGroup = { name: string; y: number; lines: RatioLine[]; disagree: boolean }
export type OverMachines = { axis: Axis; groups: RatioGroup[]; one: number; bottom: number; height: number }

type Frame = { left: number; right: number; top: number; head: number; lineHeight: number }

const PERCENT = { label: '%', factor: 0.01, decimals: 0 }

export const percentOf = (ratio: number) => `${(100 * ratio).toFixed(0)} %`

const limitsOf = (pair: Pair) =>
  [
    ...pair.found.machines.flatMap((one) => [
      one.typical.interval.low,
      one.typical.interval.high,
      one.typical.value,
    ]),
    ...(pair.found.interval && !pair.found.disagree
      ? [pair.found.interval.low, pair.found.interval.high]
      : []),
  ].filter((value): value is number => value !== null && value > 0)

/** Every entrant that was measured with the baseline on two machines at least. */
export const against = (pairs: readonly Pair[], baseline: string) =>
  pairs.filter((pair) => pair.a === baseline)

/** Ratios of each entrant to the baseline: a line for each machine, and one together where they agree. */
export function overMachines(found: readonly Pair[], baseline: string, frame: Frame): OverMachines {
  const pairs = against(found, baseline)
  const all = pairs.flatMap(limitsOf)
  const axis = logAxis([Math.min(0.98, ...all), Math.max(1.02, ...all)], [frame.left, frame.right], PERCENT)
  let y = frame.top
  const groups = pairs.map((pair) => {
    const top = y
    y += frame.head
    const lines = pair.found.machines.map((one) => {
      const { value, interval } = one.typical
      const line = lineOf(
        one.machine,
        y,
        axis,
        value ?? 1,
        interval.low ?? value ?? 1,
        interval.high ?? value ?? 1,
        false,
      )
      y += frame.lineHeight
      return line
    })
    if (!pair.found.disagree) {
      const { geometric_mean: mean, interval } = pair.found
      lines.push(lineOf('together', y, axis, mean, interval?.low ?? mean, interval?.high ?? mean, true))
      y += frame.lineHeight
    }
    y += 6
    return { name: pair.b, y: top, lines, disagree: pair.found.disagree }
  })
  return { axis, groups, one: axis.place(1), bottom: y, height: y + 46 }
}

function lineOf(
  label: string,
  y: number,
  axis: Axis,
  value: number,
  low: number,
  high: number,
  isTogether: boolean,
): RatioLine {
  const says =
    low === high
      ? percentOf(value)
      : `${percentOf(value)} (${(100 * low).toFixed(0)} to ${(100 * high).toFixed(0)})`
  return {
    label,
    y,
    x: axis.place(value),
    low: axis.place(Math.max(low, 1e-9)),
    high: axis.place(high),
    says,
    isTogether,
  }
}

export function overMachinesTable(label: string, pairs: readonly Pair[], baseline: string): Table {
  return {
    caption: `${label}: ratio to ${baseline}, on each machine and together`,
    head: ['contender', 'machine', 'ratio (%)', 'from', 'to'],
    rows: against(pairs, baseline).flatMap((pair) => [
      ...pair.found.machines.map((one): Table['rows'][number] => [
        pair.b,
        one.machine,
        hundred(one.typical.value),
        hundred(one.typical.interval.low),
        hundred(one.typical.interval.high),
      ]),
      pair.found.disagree
        ? [pair.b, 'together: the machines disagree', null, null, null]
        : [
            pair.b,
            'together',
            hundred(pair.found.geometric_mean),
            hundred(pair.found.interval?.low),
            hundred(pair.found.interval?.high),
          ],
    ]),
  }
}

const hundred = (value: number | null | undefined) =>
  value === null || value === undefined ? null : 100 * value
