import { expect, test } from 'vitest'

import { measureLine, numberIn, wordsOf } from './ownMeasure'

const SORT = {
  key: 'own.s.low.Sort_seeds',
  name: 'Sort seeds',
  unit: 's',
  good_end: 'low',
  resolution: 0.01,
  margin: { share: 0.05, amount: 0.3 },
  says: '',
  asked: '',
  command: 'Sort_seeds',
} as const

test('a measure in one line says how it is told and what matters', () => {
  expect(measureLine(SORT)).toBe('seconds · less is better · 0.3 s or 5 % matters · in steps of 0.01 s')
  const power = { ...SORT, unit: 'W', good_end: 'none', resolution: null } as const
  expect(measureLine({ ...power, margin: { share: null, amount: null } })).toBe(
    'in W · judges nobody · no margin: nobody is said to be ahead',
  )
  expect(measureLine({ ...SORT, unit: '1', margin: { share: null, amount: 2 } })).toContain('2 matters')
})

test('a figure is a positive number, nothing, or wrong', () => {
  expect(numberIn(' ')).toBeNull()
  expect(numberIn('0.25')).toBe(0.25)
  expect([numberIn('-1'), numberIn('a lot'), numberIn('Infinity')]).toEqual([undefined, undefined, undefined])
  expect(wordsOf(0.1 * 3)).toBe('0.3')
  expect(wordsOf(null)).toBe('')
})
