import type { FindingRow } from '@/api/types'

import { amount, figure, type Scale } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

/** What each definition of memory in use means, and the everyday figure that it gives again. */
export const MEANINGS: Record<string, string> = {
  'memory.used': 'total less available; the “in use” that tells what a new program will miss',
  'memory.used_nocache': 'total less free, buffers and caches; the “in use” of panels that leave caches out',
  'memory.pss': 'each shared page split among its users; a process list added up fairly, without the kernel',
  'memory.rss': 'each shared page counted with every user; a process list’s resident column added up',
  'memory.swap_used': 'moved out to swap; belongs beside every other line',
  'memory.swap_compressed': 'what the swapped pages take up compressed',
}

const SWAP = 'memory.swap_used'

export type DefinitionLine = {
  key: string
  label: string
  meaning: string
  y: number
  marks: { laneNo: number; x: number; value: number }[]
  /** The least and the greatest of its medians, as a figure. */
  says: string
}

export type Definitions = {
  axis: Axis
  lines: DefinitionLine[]
  hasSwap: boolean
  bottom: number
  height: number
}

/** One machine's rows, one for each definition that was read. */
export const definitionRows = (rows: readonly FindingRow[], machine: string) =>
  Object.keys(MEANINGS).flatMap((metric) =>
    rows.filter((row) => row.metric === metric && row.machine === machine && row.facet === '').slice(0, 1),
  )

const medianOf = (row: FindingRow, laneNo: number) =>
  row.lanes.find((lane) => lane.lane_no === laneNo)?.summary?.median ?? null

/** How far the definitions part for the lane that has the least by the first of them. */
export function definitionsSaid(
  rows: readonly FindingRow[],
  machine: string,
  names: ReadonlyMap<number, string>,
): string {
  const own = definitionRows(rows, machine).filter((row) => !row.metric.startsWith('memory.swap'))
  const [first] = own
  const least = first?.lanes
    .filter((lane) => lane.summary?.median != null)
    .sort((a, b) => a.summary!.median! - b.summary!.median!)[0]
  const values = least ? own.flatMap((row) => medianOf(row, least.lane_no) ?? []) : []
  if (!first || !least || values.length < 2) return 'One definition was read'
  const [low, high] = [Math.min(...values), Math.max(...values)]
  return `${names.get(least.lane_no)}: ${figure(low, first.scale)} or ${amount(high, first.scale)}, by definition`
}

export function definitionsTable(
  rows: readonly FindingRow[],
  machine: string,
  names: ReadonlyMap<number, string>,
): Table {
  const own = definitionRows(rows, machine)
  const { scale } = own[0]!
  return {
    caption: `Memory in use under each definition, ${machine}, ${scale.label}`,
    head: ['definition', 'what it counts', ...names.values()],
    rows: own.map((row) => [
      row.label,
      MEANINGS[row.metric]!,
      ...[...names.keys()].map((laneNo) => {
        const median = medianOf(row, laneNo)
        return median === null ? null : median / scale.factor
      }),
    ]),
  }
}

/** One machine's memory under every definition that was read, all on one axis. */
export function definitions(
  rows: readonly FindingRow[],
  machine: string,
  frame: { left: number; right: number; top: number; lineHeight: number },
): Definitions | null {
  const own = definitionRows(rows, machine)
  if (own.length < 2) return null
  const { scale } = own[0]!
  const points = own.map((row) =>
    row.lanes.flatMap((lane) => {
      const value = lane.summary?.median ?? null
      return value === null ? [] : [{ laneNo: lane.lane_no, value }]
    }),
  )
  const values = [0, ...points.flat().map((one) => one.value)]
  const axis = linearAxis([0, Math.max(...values)], [frame.left, frame.right], own[0]!.scale)
  const lines = own.map((row, i) => ({
    key: row.key,
    label: row.label,
    meaning: MEANINGS[row.metric]!,
    y: frame.top + i * frame.lineHeight,
    marks: points[i]!.map((one) => ({ ...one, x: axis.place(one.value) })),
    says: rangeSaid(
      points[i]!.map((one) => one.value),
      scale,
    ),
  }))
  const bottom = frame.top + lines.length * frame.lineHeight
  return { axis, lines, hasSwap: own.some((row) => row.metric === SWAP), bottom, height: bottom + 46 }
}

function rangeSaid(values: readonly number[], scale: Scale): string {
  if (!values.length) return ''
  const [low, high] = [figure(Math.min(...values), scale), amount(Math.max(...values), scale)]
  return high.startsWith(`${low} `) ? high : `${low} to ${high}`
}
