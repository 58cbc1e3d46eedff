import { describe, expect, it } from 'vitest'

import { row } from '@/charts/layout/testRow'

import { moved, ordered } from './rowOrder'

const rows = ['a', 'b', 'c'].map((key) => row({ key }))

describe('the order of the verdicts', () => {
  it('is the person’s, and new rows come after', () => {
    expect(ordered(rows, ['c', 'a']).map((one) => one.key)).toEqual(['c', 'a', 'b'])
    expect(ordered(rows, []).map((one) => one.key)).toEqual(['a', 'b', 'c'])
    expect(ordered(rows, ['gone', 'b']).map((one) => one.key)).toEqual(['b', 'a', 'c'])
  })

  it('moves one row and keeps the others in theirs', () => {
    expect(moved(['a', 'b', 'c'], 'c', 0)).toEqual(['c', 'a', 'b'])
    expect(moved(['a', 'b', 'c'], 'a', 9)).toEqual(['b', 'c', 'a'])
  })
})
