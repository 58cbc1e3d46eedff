import type { FindingRow } from '@/api/types'

import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'

export type TradeMark = {
  laneNo: number
  x: number
  y: number
  across: readonly [number, number] | null
  up: readonly [number, number] | null
  isFrontier: boolean
  /** Whether its name stands below it, because another mark is close above. */
  isBelow: boolean
}

export type TradeOff = {
  x: Axis
  y: Axis
  marks: TradeMark[]
  frontier: string
  bottom: number
  height: number
}

export type TradeFrame = { left: number; right: number; top: number; bottom: number }

type Point = { laneNo: number; x: number; y: number }

/** Lanes that no other lane beats in both measures, from the best of the first on. */
export function frontierOf(points: readonly Point[], across: FindingRow, up: FindingRow): Point[] {
  const better = (row: FindingRow, a: number, b: number) => (row.good_end === 'high' ? a > b : a < b)
  const beats = (a: Point, b: Point) =>
    !better(across, b.x, a.x) && !better(up, b.y, a.y) && (better(across, a.x, b.x) || better(up, a.y, b.y))
  return points
    .filter((one) => !points.some((other) => beats(other, one)))
    .sort((a, b) => (better(across, a.x, b.x) ? -1 : 1))
}

const medianOf = (row: FindingRow, laneNo: number) =>
  row.lanes.find((lane) => lane.lane_no === laneNo)?.summary?.median ?? null
const intervalOf = (row: FindingRow, laneNo: number) => {
  const found = row.lanes.find((lane) => lane.lane_no === laneNo)?.summary?.median_interval
  return found && found.low !== null && found.high !== null ? ([found.low, found.high] as const) : null
}

const CLOSE = { up: 34, across: 160 }

/** Two measures against one another: medians with their intervals both ways, and the frontier. */
export function tradeOff(across: FindingRow, up: FindingRow, frame: TradeFrame): TradeOff {
  const points = across.lanes.flatMap(({ lane_no: laneNo }) => {
    const [x, y] = [medianOf(across, laneNo), medianOf(up, laneNo)]
    return x === null || y === null ? [] : [{ laneNo, x, y }]
  })
  const reach = (row: FindingRow, pick: (p: Point) => number) =>
    points.flatMap((p) => [pick(p), ...(intervalOf(row, p.laneNo) ?? [])])
  const domain = (values: number[]) =>
    values.length ? ([Math.min(...values), Math.max(...values)] as const) : ([0, 1] as const)
  const x = linearAxis(domain(reach(across, (p) => p.x)), [frame.left, frame.right], across.scale)
  const y = linearAxis(domain(reach(up, (p) => p.y)), [frame.bottom, frame.top], up.scale)
  const best = frontierOf(points, across, up)
  const span = (row: FindingRow, laneNo: number, place: (value: number) => number) => {
    const found = intervalOf(row, laneNo)
    return found ? ([place(found[0]), place(found[1])] as const) : null
  }
  const isCrowded = (p: Point) =>
    points.some((other) => {
      const [dx, dy] = [x.place(p.x) - x.place(other.x), y.place(p.y) - y.place(other.y)]
      return dy > 0 && dy < CLOSE.up && Math.abs(dx) < CLOSE.across
    })
  const marks = points.map((p) => ({
    laneNo: p.laneNo,
    x: x.place(p.x),
    y: y.place(p.y),
    across: span(across, p.laneNo, x.place),
    up: span(up, p.laneNo, y.place),
    isFrontier: best.includes(p),
    isBelow: isCrowded(p),
  }))
  const frontier = best
    .map((p, i) => `${i ? 'L' : 'M'}${x.place(p.x).toFixed(1)},${y.place(p.y).toFixed(1)}`)
    .join('')
  return { x, y, marks, frontier, bottom: frame.bottom, height: frame.bottom + 46 }
}

export function tradeTable(across: FindingRow, up: FindingRow, names: ReadonlyMap<number, string>): Table {
  const cells = (row: FindingRow, laneNo: number) => {
    const [median, limits] = [medianOf(row, laneNo), intervalOf(row, laneNo)]
    return [median, limits?.[0] ?? null, limits?.[1] ?? null].map((value) =>
      value === null ? null : value / row.scale.factor,
    )
  }
  const head = (row: FindingRow) => [
    `${row.label} (${row.scale.label || 'count'})`,
    `${row.label}, from`,
    `${row.label}, to`,
  ]
  return {
    caption: `${up.label} against ${across.label}, medians with intervals`,
    head: ['contender', ...head(across), ...head(up)],
    rows: across.lanes.map(({ lane_no: laneNo }) => [
      names.get(laneNo) ?? '',
      ...cells(across, laneNo),
      ...cells(up, laneNo),
    ]),
  }
}

/** Lanes of which no other is better in both, by their medians. */
export function bestInBoth(across: FindingRow, up: FindingRow): number[] {
  const points = across.lanes.flatMap(({ lane_no: laneNo }) => {
    const [x, y] = [medianOf(across, laneNo), medianOf(up, laneNo)]
    return x === null || y === null ? [] : [{ laneNo, x, y }]
  })
  return frontierOf(points, across, up).map((point) => point.laneNo)
}
