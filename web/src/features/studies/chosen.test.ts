import { expect, test } from 'vitest'

import type { StudyDigest } from '@/api/types'

import { ALL, chosen } from './chosen'

const study = (title: string, change: Partial<StudyDigest> = {}): StudyDigest => ({
  id: title,
  title,
  state: 'done',
  created_at: '2026-10-05T08:00:00Z',
  contenders: [],
  machines: ['Herbarium laptop'],
  runs: 0,
  finished: 0,
  failed: 0,
  can_run: false,
  answer: null,
  is_current: false,
  tags: [],
  ...change,
})

const studies = [
  study('B', { created_at: '2026-10-06T08:00:00Z', machines: ['Field-kit board'] }),
  study('A', { contenders: ['Varrow 12'], state: 'paused' }),
  study('C', {
    answer: { headline: 'Quillfern 8 ahead by 2 s', about: 'Power-on to ready', verdict: 'ahead' },
  }),
]
const titles = (change: Partial<typeof ALL>) => chosen(studies, { ...ALL, ...change }).map((one) => one.title)

test('studies are found by who takes part, where, and what they answer', () => {
  expect(titles({ typed: 'varrow' })).toEqual(['A'])
  expect(titles({ typed: 'quillfern power' })).toEqual(['C'])
  expect(titles({ typed: 'board' })).toEqual(['B'])
  expect(titles({ typed: 'nothing' })).toEqual([])
})

test('studies stand in the order asked for, and only those in the state asked for', () => {
  expect(titles({})[0]).toBe('B')
  expect(titles({ order: 'title' })).toEqual(['A', 'B', 'C'])
  expect(titles({ order: 'machine' })[0]).toBe('B')
  expect(titles({ state: 'paused' })).toEqual(['A'])
})
