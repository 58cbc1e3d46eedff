import type { FindingRow } from '@/api/types'

import { linearAxis, type Axis } from './axis'

/** What each definition of memory in use means, and the everyday figure that it gives again. */
export const MEANINGS: Record<string, string> = {
  'memory.used': 'total less what is available: what would be missing to a new program',
  'memory.used_nocache': 'total less free, buffers and caches: what many panels show',
  'memory.pss': 'all processes, each shared page split among its users: no kernel',
  'memory.rss': 'all processes, each shared page counted with every user: what a process list adds up to',
  'memory.swap_used': 'moved out to swap: belongs beside every other line',
  'memory.swap_compressed': 'what the swapped pages take up compressed',
}

export type DefinitionLine = {
  key: string
  label: string
  meaning: string
  y: number
  marks: { laneNo: number; x: number; value: number }[]
}

export type Definitions = { axis: Axis; lines: DefinitionLine[]; bottom: number; height: number }

/** One machine's memory under every definition that was read, all on one axis. */
export function definitions(rows: readonly FindingRow[], machine: string, frame: { left: number; right: number; top: number; lineHeight: number }): Definitions | null {
  const own = Object.keys(MEANINGS).flatMap((metric) =>
    rows.filter((row) => row.metric === metric && row.machine === machine && row.facet === '').slice(0, 1),
  )
  if (own.length < 2) return null
  const points = own.map((row) => row.lanes.flatMap((lane) => {
    const value = lane.summary?.median ?? null
    return value === null ? [] : [{ laneNo: lane.lane_no, value }]
  }))
  const values = [0, ...points.flat().map((one) => one.value)]
  const axis = linearAxis([0, Math.max(...values)], [frame.left, frame.right], own[0]!.scale)
  const lines = own.map((row, i) => ({
    key: row.key,
    label: row.label,
    meaning: MEANINGS[row.metric]!,
    y: frame.top + i * frame.lineHeight,
    marks: points[i]!.map((one) => ({ ...one, x: axis.place(one.value) })),
  }))
  const bottom = frame.top + lines.length * frame.lineHeight
  return { axis, lines, bottom, height: bottom + 46 }
}
