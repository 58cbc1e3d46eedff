import { describe, expect, test } from 'vitest'

import type { IntakeItem } from '@/api/types'

import { intakeLanes, NEW_CONTENDER } from './intakeLanes'

const item = (change: Partial<IntakeItem>): IntakeItem => ({
  file: 'boot.json',
  kind: 'haremile-capture/1',
  asked: 'boot',
  system: 'Varrow 12',
  machine: 'Herbarium laptop',
  made_at: '2026-10-05T08:00:00Z',
  outcome: 'done',
  reason: null,
  readings: 3,
  faults: [],
  lane_no: 1,
  is_known: false,
  notes: [],
  strangers: [],
  ...change,
})

describe('which contender each capture goes to', () => {
  test('the one that fits needs no choice, and a choice stands over it', () => {
    expect(intakeLanes([item({}), item({})], { 1: 2 })).toEqual({ lanes: [0, 2], missing: 0 })
  })
  test('one that fits none has to be chosen for', () => {
    const stray = item({ lane_no: null })
    expect(intakeLanes([stray], {}).missing).toBe(1)
    expect(intakeLanes([stray], { 0: 2 })).toEqual({ lanes: [2], missing: 0 })
  })
  test('who takes no part has to be let join, in a readings file too', () => {
    const file = item({ asked: 'readings', lane_no: null, strangers: ['Marlstone 26.1 on Herbarium laptop'] })
    expect(intakeLanes([file], {}).missing).toBe(1)
    expect(intakeLanes([file], { 0: NEW_CONTENDER })).toEqual({ lanes: [-1], missing: 0 })
  })
  test('readings files name their contenders, and what is known goes nowhere', () => {
    const items = [item({ asked: 'readings', lane_no: null }), item({ lane_no: null, is_known: true })]
    expect(intakeLanes(items, {}).missing).toBe(0)
  })
})
