import type { BootUnits } from '@/api/types'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

export type UnitShape = {
  name: string
  y: number
  from: number
  to: number
  seconds: number
  isLong: boolean
}
export type UnitLanes = { axis: Axis; units: UnitShape[]; leftOut: number; bottom: number; height: number }

type Unit = BootUnits['units'][number]
type Frame = { left: number; right: number; top: number; lineHeight: number }

const SECONDS = { label: 's', factor: 1, decimals: 1 }
const MOST_SHOWN = 18
const LONG_ONES = 3

const lengthOf = (unit: Unit) => (unit.ready_s === null ? 0 : unit.ready_s - unit.start_s)

/** The units that took longest, the longest first. */
export const longest = (units: readonly Unit[]) => [...units].sort((a, b) => lengthOf(b) - lengthOf(a))

/** What ran when in one boot, in order of start; the shortest are left out where there are many. */
export function unitLanes(units: readonly Unit[], frame: Frame): UnitLanes {
  const ranked = longest(units)
  const kept = new Set(ranked.slice(0, MOST_SHOWN))
  const long = new Set(ranked.slice(0, LONG_ONES))
  const shown = units.filter((unit) => kept.has(unit))
  const axis = linearAxis(
    [0, Math.max(1, ...shown.map((unit) => unit.ready_s ?? unit.start_s))],
    [frame.left, frame.right],
    SECONDS,
  )
  const bottom = frame.top + shown.length * frame.lineHeight
  return {
    axis,
    bottom,
    height: bottom + 46,
    leftOut: units.length - shown.length,
    units: shown.map((unit, i) => ({
      name: unit.name,
      y: frame.top + i * frame.lineHeight,
      from: axis.place(unit.start_s),
      to: axis.place(unit.ready_s ?? unit.start_s),
      seconds: lengthOf(unit),
      isLong: long.has(unit),
    })),
  }
}

/** Which units take longest, in a few words. */
export function unitsSaid(units: readonly Unit[]): { headline: string; says: string } {
  const [first, ...rest] = longest(units).filter((unit) => lengthOf(unit) > 0)
  if (!first) return { headline: 'No unit took any time', says: 'Every unit was ready as it started.' }
  const next = rest.slice(0, LONG_ONES - 1).map((unit) => `${unit.name} ${lengthOf(unit).toFixed(1)} s`)
  return {
    headline: `${first.name} takes longest: ${lengthOf(first).toFixed(1)} s`,
    says: `${next.length ? `Then ${next.join(' and ')}. ` : ''}Units run beside one another: their lengths do not add up to the boot.`,
  }
}

export const unitsTable = (units: readonly Unit[]): Table => ({
  caption: 'Units of one boot, seconds since the kernel began',
  head: ['unit', 'start (s)', 'ready (s)', 'took (s)'],
  rows: units.map((unit) => [
    unit.name,
    unit.start_s,
    unit.ready_s,
    unit.ready_s === null ? null : lengthOf(unit),
  ]),
})
