import { describe, expect, it } from 'vitest'

import { cellOf, emptySheet, hasNames, pasted, pastedCells, readingsFile, withNames, written } from './grid'

const columns = ['Varrow 12', 'Quillfern 8'].map((system) => ({ system, machine: 'Laptop', install: '' }))
const sheet = emptySheet(columns, 2)

describe('cells', () => {
  it('tell a figure, a failure and nothing apart', () => {
    expect(cellOf(' 1:45 ').kind).toBe('figure')
    expect(cellOf('x black screen')).toEqual({ kind: 'failed', reason: 'black screen' })
    expect(cellOf('failed: hung')).toEqual({ kind: 'failed', reason: 'hung' })
    expect(['', ' ', '-', '–'].map((text) => cellOf(text).kind)).toEqual(Array(4).fill('missing'))
  })
})

describe('the sheet', () => {
  it('grows by a row once its last one is used', () => {
    const one = written(sheet, 0, 1, '47 s')
    expect(one.rows).toEqual([
      ['', '47 s'],
      ['', ''],
    ])
    expect(written(one, 1, 0, '45 s').rows).toHaveLength(3)
  })
  it('takes columns from a spreadsheet, with their names', () => {
    const cells = pastedCells('Marlstone 3\tVarrow 12 on Desk\r\n1:02\t47 s\r\n1:04\t\r\n')
    expect(hasNames(cells)).toBe(true)
    const named = withNames(sheet, cells[0]!, 'Laptop')
    expect(named.columns.map((one) => `${one.system}/${one.machine}`)).toEqual([
      'Marlstone 3/Laptop',
      'Varrow 12/Desk',
    ])
    expect(pasted(named, 0, 0, cells.slice(1)).rows.slice(0, 2)).toEqual([
      ['1:02', '47 s'],
      ['1:04', ''],
    ])
  })
  it('does not take figures for names', () => {
    expect(hasNames(pastedCells('47 s\t1:02\n45 s\t1:03'))).toBe(false)
    expect(hasNames(pastedCells('Varrow 12'))).toBe(false)
  })
  it('is a readings file with blocks, steps and failures', () => {
    const full = written(written(written(sheet, 0, 0, '47 s'), 1, 0, 'x hung, twice'), 1, 1, '52 s')
    const amounts = new Map([
      ['47 s', { value: 47, resolution: 1 }],
      ['52 s', { value: 52, resolution: 1 }],
    ])
    const what = { metric: 'boot.total', unit: 's', person: 'Ida', firstBlock: 3 }
    expect(readingsFile(full, what, amounts).split('\n').slice(1, 4)).toEqual([
      'Varrow 12,Laptop,,boot.total,47,s,typed,1,3,done,,Ida',
      'Varrow 12,Laptop,,boot.total,,s,typed,,4,failed,"hung, twice",Ida',
      'Quillfern 8,Laptop,,boot.total,52,s,typed,1,4,done,,Ida',
    ])
  })
})
