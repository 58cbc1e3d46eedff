import { describe, expect, it } from 'vitest'

import { columns, row } from '@/charts/layout/testRow'

import { rowCsv } from './rowCsv'

describe('the data of a picture', () => {
  it('is every reading of the row, quoted where it must be', () => {
    const text = rowCsv(
      row({ machine: 'Bench, left' }),
      columns(),
      new Map([
        [1, 'A "one"'],
        [2, 'B'],
      ]),
    )
    const lines = text.trimEnd().split('\n')
    expect(lines[0]).toBe('contender,machine,metric,value,unit,method,block,set_aside')
    expect(lines).toHaveLength(4)
    expect(lines[1]).toBe('"A ""one""","Bench, left",boot.total,13,s,serial,1,')
    expect(lines[3]).toContain(',lid')
  })
})
