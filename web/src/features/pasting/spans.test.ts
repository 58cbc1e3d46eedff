import { describe, expect, it } from 'vitest'

import type { Pasted } from '@/api/byHand'

import { procedureOf, spans } from './spans'

const piece = {
  start: 4,
  end: 8,
  tool: 'free',
  metric: 'memory.used',
  label: 'Idle memory',
  value: 1,
  shown: '1 MiB',
  resolution: 1,
  definition: 'total less available',
}
const found: Pasted = {
  text: 'abc\nMem:\nxyz',
  pieces: [piece],
  stated: [],
  questions: [{ start: 6, end: 8, says: 'which?', choices: [] }],
  unread: [{ start: 9, end: 12 }],
  system: null,
}

describe('spans', () => {
  it('cut a text where what it holds begins and ends; what is asked about stands out', () => {
    expect(spans(found)).toEqual([
      { text: 'abc\n', kind: 'plain' },
      { text: 'Me', kind: 'piece' },
      { text: 'm:', kind: 'question' },
      { text: '\n', kind: 'plain' },
      { text: 'xyz', kind: 'unread' },
    ])
  })
  it('lose nothing of the text', () => {
    expect(
      spans(found)
        .map((one) => one.text)
        .join(''),
    ).toBe(found.text)
  })
})

describe('procedureOf', () => {
  it('tells of which run a measure is', () => {
    expect(['boot.kernel', 'memory.used', 'disk.used', 'install.total'].map(procedureOf)).toEqual([
      'boot',
      'idle',
      'footprint',
      'install',
    ])
  })
})
