import { describe, expect, it } from 'vitest'

import { spread } from './spread'
import { columns, row } from './testRow'

const frame = { left: 100, right: 500, top: 20, height: 200 }

describe('how readings are spread', () => {
  it('is a step for each reading that counts, up to the whole', () => {
    const { curves, bottom } = spread(row(), columns(), frame)
    expect(curves.map((curve) => curve.count)).toEqual([1, 1])
    expect(curves[0]!.path.startsWith(`M100,${bottom}`)).toBe(true)
    expect(curves[0]!.path).toContain('V20.0')
  })
  it('rises to the right: a slower lane’s median stands farther there', () => {
    const { curves, shares } = spread(row(), columns(), frame)
    expect(curves[0]!.medianAt!.x).toBeLessThan(curves[1]!.medianAt!.x)
    expect(curves[0]!.medianAt!.y).toBe(120)
    expect(shares.map((share) => share.label)).toEqual(['0 %', '25 %', '50 %', '75 %', '100 %'])
  })
  it('has no path where nothing counts', () => {
    const none = { ...columns(), set_aside: ['lid', 'lid', 'lid', 'lid'] }
    expect(spread(row(), none, frame).curves.map((curve) => curve.path)).toEqual(['', ''])
  })
})
