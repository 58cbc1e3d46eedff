import { describe, expect, it } from 'vitest'

import type { Scorecard } from '@/api/scorecards'

import { cardOf, draftOf, stepWords, type CardDraft } from './cardDraft'

const written = (change: Partial<CardDraft> = {}): CardDraft => ({
  ...draftOf(null),
  criteria: [{ name: ' Installing ', score: '4.5', why: ' quick ' }],
  ...change,
})

describe('words for steps', () => {
  it('are numbers with a word each, in one line', () => {
    expect(stepWords('1 poor; 2.5 fair ;5 very good')).toEqual([
      { at: 1, word: 'poor' },
      { at: 2.5, word: 'fair' },
      { at: 5, word: 'very good' },
    ])
    expect(stepWords('2,5 fair')).toEqual([{ at: 2.5, word: 'fair' }])
    expect(stepWords('  ')).toEqual([])
  })
  it('are refused as a whole where a part is none', () => {
    expect(stepWords('1 poor; fair')).toBeNull()
  })
})

describe('a card while it is written', () => {
  it('begins with the usual criteria and no score', () => {
    const draft = draftOf(null)
    expect(draft.criteria.length).toBeGreaterThan(2)
    expect(draft.criteria.every((one) => one.score === '')).toBe(true)
  })
  it('comes back from one that is kept as it was', () => {
    const card = {
      scale: { kind: 'stars', words: [{ at: 1, word: 'poor' }] },
      criteria: [{ name: 'Installing', score: 4.5, why: 'quick' }],
      points: [{ is_good: true, says: 'starts soon', tie: null }],
      for_whom: 'old laptops',
      not_for_whom: '',
    } as unknown as Scorecard
    const draft = draftOf(card)
    expect(draft.words).toBe('1 poor')
    expect(cardOf(draft, 3)).toEqual({
      after: 3,
      scale: 'stars',
      words: card.scale.words,
      criteria: card.criteria,
      points: card.points,
      for_whom: 'old laptops',
      not_for_whom: '',
    })
  })
})

describe('a card as it is handed in', () => {
  it('is trimmed, and leaves out what is empty', () => {
    const card = cardOf(
      written({
        criteria: [...written().criteria, { name: ' ', score: '1', why: '' }],
        points: [{ isGood: false, says: '  ', tie: '' }],
      }),
      0,
    )
    expect(card?.criteria).toEqual([{ name: 'Installing', score: 4.5, why: 'quick' }])
    expect(card?.points).toEqual([])
  })
  it('keeps a criterion without a score', () => {
    const card = cardOf(written({ criteria: [{ name: 'Installing', score: '', why: '' }] }), 0)
    expect(card?.criteria[0]?.score).toBeNull()
  })
  it.each([
    ['no criterion', { criteria: [] }],
    ['a score that is no number', { criteria: [{ name: 'Installing', score: 'many', why: '' }] }],
    ['a step without a number', { words: 'good' }],
  ])('is not ready with %s', (_, change) => {
    expect(cardOf(written(change), 0)).toBeNull()
  })
})
