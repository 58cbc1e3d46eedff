import type { Schemas } from '@/api/types'
import { amount } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, logAxis, type Axis } from './axis'

type Page = Schemas['TotalsPage']
type Line = Schemas['TotalLine']

const INDEX = { label: '', factor: 1, decimals: 0 }
const LANE = 40
const TOP = 30
const AXIS = 34
const NARROW = 700
/** From how many times the least index on a log scale serves better: an index is a ratio. */
const FAR = 3

export type TotalShape = {
  line: Line
  y: number
  x: number | null
  low: number | null
  high: number | null
  figure: string
  says: string
}
export type TotalsShape = {
  axis: Axis
  lanes: TotalShape[]
  left: number
  figureX: number
  reference: number
  top: number
  bottom: number
  height: number
}

/** An index as it is shown: a whole number. */
export const indexSaid = (value: number) => value.toFixed(0)

/** A lane a system, the best on top: its index as a post, its interval as a stretch; 100 is a line. */
export function totalsShape(page: Page, width: number): TotalsShape {
  const isNarrow = width < NARROW
  const left = isNarrow ? width * 0.5 : Math.min(360, width * 0.34)
  const figureX = isNarrow ? width - 48 : width - 120
  const known = page.lines.filter((line) => line.index !== null)
  const values = known.flatMap((line) => [line.index!, line.low ?? line.index!, line.high ?? line.index!])
  const span = [Math.min(100, ...values), Math.max(100, ...values)] as const
  const make = span[1] > FAR * span[0] ? logAxis : linearAxis
  const axis = make(span, [left, figureX - 24], INDEX)
  const lanes = page.lines.map((line, i) => ({
    line,
    y: TOP + i * LANE + LANE / 2,
    x: line.index === null ? null : axis.place(line.index),
    low: line.low === null ? null : axis.place(line.low),
    high: line.high === null ? null : axis.place(line.high),
    figure: line.index === null ? 'none' : indexSaid(line.scaled ?? line.index),
    says: totalSaid(page, line),
  }))
  const bottom = TOP + page.lines.length * LANE
  return {
    axis,
    lanes,
    left,
    figureX,
    reference: axis.place(100),
    top: TOP,
    bottom,
    height: bottom + AXIS,
  }
}

/** The index with its interval, or what is missing. */
export function totalSaid(page: Page, line: Line): string {
  if (line.index === null) return `not measured: ${line.missing.map((part) => page.labels[part]).join(', ')}`
  const range =
    line.low === null ? ', interval not known' : ` (${indexSaid(line.low)} to ${indexSaid(line.high!)})`
  const failed = line.failed ? ` · ${line.failed} of ${line.runs} runs failed` : ''
  return `index ${indexSaid(line.index)}${range}${failed}`
}

/** Everything that goes into each index. */
export const totalsTable = (page: Page): Table => {
  const parts = Object.keys(page.weights)
  return {
    caption: `Index, ${page.reference ?? ''} = 100`,
    head: [
      'system',
      'index',
      'low',
      'high',
      ...(page.ends ? [`0 to 100 (${page.ends.nothing} to ${page.ends.all})`] : []),
      ...parts.flatMap((part) => [page.labels[part]!, `${page.labels[part]}, points`]),
      'missing',
    ],
    rows: page.lines.map((line) => [
      line.system,
      line.index === null ? '' : line.index.toFixed(1),
      line.low === null ? '' : line.low.toFixed(1),
      line.high === null ? '' : line.high.toFixed(1),
      ...(page.ends ? [line.scaled === null ? '' : line.scaled.toFixed(1)] : []),
      ...parts.flatMap((part) => {
        const own = line.parts.find((one) => one.part === part)
        return own ? [amount(own.median, page.scales[part]!), own.points.toFixed(1)] : ['', '']
      }),
      line.missing.map((part) => page.labels[part]).join('; '),
    ]),
  }
}
