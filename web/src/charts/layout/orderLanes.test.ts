import { describe, expect, it } from 'vitest'

import { orderLanes } from './orderLanes'
import { columns, row } from './testRow'

const frame = { left: 100, right: 500, top: 20, laneHeight: 60 }

describe('readings in their order', () => {
  it('stand block by block, the larger higher, in the lane of their contender', () => {
    const made = orderLanes(row(), columns(), frame)
    const [first, second] = made.lanes
    expect(first!.marks.map((mark) => mark.block)).toEqual([1, 2])
    expect(first!.marks[0]!.y).toBeLessThan(first!.marks[1]!.y)
    expect(first!.marks[1]!.isAside).toBe(true)
    expect(second!.marks).toHaveLength(1)
    expect(made.blocks.map((block) => block.label)).toEqual(['1', '2'])
  })

  it('mark where a condition changed', () => {
    const lanes = row().lanes
    lanes[0]!.breaks = [{ key: 'kernel', label: 'kernel', before: '6.1', after: '6.2', block: 2 }]
    const made = orderLanes(row({ lanes }), columns(), frame)
    expect(made.lanes[0]!.breaks).toEqual([{ x: 300, says: 'kernel: 6.1, then 6.2' }])
  })
})
