import { describe, expect, it } from 'vitest'

import type { BootParts } from '@/api/types'

import { bootPartLanes, bootPartsTable } from './bootParts'

const frame = { left: 100, right: 500, top: 20, laneHeight: 60 }
const names = new Map([[1, 'Varrow 12']])

const part = (metric: string, start: number, end: number, limits: [number, number] | null = null) => ({
  metric,
  label: metric,
  start,
  end,
  end_interval: limits && { low: limits[0], high: limits[1], level: 0.95 },
})

const found = {
  machine: 'Bench',
  sources: ['boot.firmware', 'boot.menu', 'boot.kernel'].map((metric) => ({
    metric,
    label: metric,
    method: 'own records',
  })),
  lanes: [
    {
      lane_no: 1,
      runs: 12,
      parts: [part('boot.firmware', 0, 4, [3.5, 4.5]), part('boot.menu', 4, 9), part('boot.kernel', 9, 11)],
    },
  ],
} as unknown as BootParts

describe('the parts of a boot', () => {
  it('follow one another without a gap, from nought on', () => {
    const { lanes, axis } = bootPartLanes(found, frame)
    const [firmware, menu, kernel] = lanes[0]!.parts
    expect(firmware!.from).toBeCloseTo(axis.place(0))
    expect(menu!.from).toBe(firmware!.to)
    expect(kernel!.from).toBe(menu!.to)
    expect(kernel!.seconds).toBe(2)
  })
  it('count what waits for a person apart', () => {
    const [lane] = bootPartLanes(found, frame).lanes
    expect([lane!.total, lane!.waited]).toEqual([6, 5])
    expect(lane!.parts.map((one) => one.isWait)).toEqual([false, true, false])
  })
  it('show the interval of a boundary where it is known', () => {
    const [firmware, menu] = bootPartLanes(found, frame).lanes[0]!.parts
    expect(firmware!.end![0]).toBeLessThan(firmware!.to)
    expect(firmware!.end![1]).toBeGreaterThan(firmware!.to)
    expect(menu!.end).toBeNull()
  })
  it('keep the order of their sources in the legend', () => {
    const { legend } = bootPartLanes(found, frame)
    expect(legend.map((one) => [one.metric, one.place])).toEqual([
      ['boot.firmware', 0],
      ['boot.menu', 1],
      ['boot.kernel', 2],
    ])
  })
  it('stand in a table', () => {
    expect(bootPartsTable(found, names).rows).toEqual([
      ['Varrow 12', 'boot.firmware', 4, 4, 3.5, 4.5, 'no'],
      ['Varrow 12', 'boot.menu', 5, 9, null, null, 'yes'],
      ['Varrow 12', 'boot.kernel', 2, 11, null, null, 'no'],
    ])
  })
})
