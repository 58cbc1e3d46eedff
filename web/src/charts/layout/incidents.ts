import type { Schemas } from '@/api/types'
import { count, moment } from '@/format/numbers'
import type { Table } from '@/format/table'

import { linearAxis, type Axis } from './axis'
import { placeSaid } from './standings'

type Page = Schemas['IncidentsPage']
type Line = Schemas['IncidentLine']

const RATE = { label: '', factor: 1, decimals: 1 }
const LANE = 40
const TOP = 30
const AXIS = 34
const NARROW = 700

export type IncidentShape = { line: Line; y: number; x: number; low: number; high: number; says: string }
export type IncidentsShape = {
  axis: Axis
  lanes: IncidentShape[]
  left: number
  placeX: number
  top: number
  bottom: number
  height: number
}

/** Incidents over hours with the rate, in words. */
export function rateSaid({ rate, incidents }: Line): string {
  if (!rate) return `${count(incidents.length, 'incident')}, no hours in use noted`
  const per = `${rate.rate.toPrecision(2)} per 100 hours (${rate.low.toPrecision(2)} to ${rate.high.toPrecision(2)})`
  return `${count(rate.incidents, 'incident')} in ${rate.hours} h: ${per}`
}

/** A lane a system with hours, the fewest incidents on top. */
export function incidentsShape(page: Page, width: number): IncidentsShape {
  const isNarrow = width < NARROW
  const left = isNarrow ? width * 0.5 : Math.min(400, width * 0.38)
  const placeX = isNarrow ? width - 52 : width - 120
  const rated = page.lines.filter((line) => line.rate !== null)
  const axis = linearAxis(
    [0, Math.max(...rated.map((line) => line.rate!.high), 1)],
    [left, placeX - 22],
    RATE,
  )
  return {
    axis,
    lanes: rated.map((line, i) => ({
      line,
      y: TOP + i * LANE + LANE / 2,
      x: axis.place(line.rate!.rate),
      low: axis.place(line.rate!.low),
      high: axis.place(line.rate!.high),
      says: rateSaid(line),
    })),
    left,
    placeX,
    top: TOP,
    bottom: TOP + rated.length * LANE,
    height: TOP + rated.length * LANE + AXIS,
  }
}

/** Everything that was noted, as a table. */
export const incidentsTable = (page: Page): Table => ({
  caption: 'Incidents',
  head: ['system', 'place', 'incidents', 'hours in use', 'per 100 hours', 'low', 'high', 'newest'],
  rows: page.lines.map((line) => [
    line.system,
    line.place ? placeSaid(line.place) : '',
    line.incidents.length,
    line.rate?.hours ?? '',
    line.rate?.rate.toPrecision(3) ?? '',
    line.rate?.low.toPrecision(3) ?? '',
    line.rate?.high.toPrecision(3) ?? '',
    line.incidents[0] ? moment(line.incidents[0].at) : '',
  ]),
})
