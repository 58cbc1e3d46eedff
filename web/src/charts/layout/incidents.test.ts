import { describe, expect, it } from 'vitest'

import type { Schemas } from '@/api/types'

import { incidentsShape, incidentsTable, rateSaid } from './incidents'

type Page = Schemas['IncidentsPage']
type Line = Schemas['IncidentLine']

const line = (system: string, rate: number | null, incidents = 3): Line =>
  ({
    system,
    place: null,
    incidents: Array.from({ length: incidents }, () => ({ at: '2026-05-03T10:00:00Z' })),
    rate:
      rate === null
        ? null
        : { rate, low: rate / 2, high: rate * 2, incidents, hours: Math.round((100 * incidents) / rate) },
  }) as unknown as Line

const page = (...lines: Line[]) => ({ lines }) as unknown as Page

describe('incidents', () => {
  it('have a lane for each system whose hours are known, fewer farther left', () => {
    const { lanes } = incidentsShape(
      page(line('Varrow 12', 1.5), line('Osterfell', null), line('Quillfern 8', 4)),
      1200,
    )
    expect(lanes.map((lane) => lane.line.system)).toEqual(['Varrow 12', 'Quillfern 8'])
    const [few, many] = lanes
    expect(few!.x).toBeLessThan(many!.x)
    expect(few!.low).toBeLessThan(few!.x)
    expect(few!.high).toBeGreaterThan(few!.x)
  })
  it('are told over their hours, with what the rate may be', () => {
    expect(rateSaid(line('Varrow 12', 1.5))).toBe('3 incidents in 200 h: 1.5 per 100 hours (0.75 to 3.0)')
    expect(rateSaid(line('Osterfell', null, 1))).toBe('1 incident, no hours in use noted')
  })
  it('stand in a table, those without hours too', () => {
    const { rows } = incidentsTable(page(line('Varrow 12', 1.5), line('Osterfell', null, 0)))
    expect(rows[0]!.slice(0, 7)).toEqual(['Varrow 12', '', 3, 200, '1.50', '0.750', '3.00'])
    expect(rows[1]).toEqual(['Osterfell', '', 0, '', '', '', '', ''])
  })
})
