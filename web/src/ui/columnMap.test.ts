import { expect, test } from 'vitest'

import { meansNothing, ofColumn, stillMissing, withColumn, type Meaning } from './columnMap'

const REQUIRED = ['system', 'machine', 'metric', 'value', 'unit']
const HEADER = ['Distro', 'Boot', 'machine']
const EMPTY: Meaning = { columns: {}, measures: {}, fixed: {}, units: {} }

test('a column that bears one of our names needs no saying', () => {
  expect(ofColumn(EMPTY, 'machine', REQUIRED)).toEqual({ kind: 'column', ours: 'machine' })
  expect(ofColumn(EMPTY, 'Distro', REQUIRED)).toEqual({ kind: 'nothing' })
  expect(stillMissing(EMPTY, HEADER, REQUIRED)).toEqual(['system', 'metric', 'value', 'unit'])
})

test('columns of measures give metric, value and unit, and what was fixed of them goes', () => {
  const fixed = { ...EMPTY, fixed: { unit: 's', system: 'Varrow 12' } }
  const found = withColumn(fixed, 'Boot', { kind: 'measure', metric: 'boot.total', unit: 's' })
  expect(found.fixed).toEqual({ system: 'Varrow 12' })
  expect(stillMissing(found, HEADER, REQUIRED)).toEqual([])
  expect(meansNothing(found, HEADER)).toBe(false)
})

test('a column changes its meaning, and a text of blanks fixes nothing', () => {
  const column = withColumn(EMPTY, 'Distro', { kind: 'column', ours: 'system' })
  expect(ofColumn(column, 'Distro', REQUIRED)).toEqual({ kind: 'column', ours: 'system' })
  const left = withColumn(column, 'Distro', { kind: 'nothing' })
  expect(left).toEqual(EMPTY)
  expect(stillMissing({ ...left, fixed: { system: '  ' } }, HEADER, REQUIRED)).toContain('system')
  expect(meansNothing(left, HEADER)).toBe(true)
})
