import { describe, expect, it } from 'vitest'

import type { Draft } from '@/api/plan'
import type { Study } from '@/api/types'

import {
  appsOf,
  draftOf,
  everyBlock,
  isEveryBlock,
  launchesOf,
  launchText,
  measureOf,
  missing,
  numbersIn,
  rampsOf,
  rampText,
  withBlocks,
  withOwn,
  withPlain,
} from './draft'

const ORDER = ['boot', 'idle', 'launch', 'footprint', 'command']

const draft = (change: Partial<Draft> = {}): Draft => ({
  ...draftOf({ title: 'Which is lighter?', draft: null } as Study),
  installs: ['a'],
  procedures: ['boot'],
  ...change,
})

describe('procedures with options', () => {
  it('launches are read from their text and written back the same', () => {
    const texts = ['launch:Files', 'launch:Notes:first-after-boot']
    expect(launchesOf(['boot', ...texts])).toEqual([
      { app: 'Files', start: 'warm' },
      { app: 'Notes', start: 'first-after-boot' },
    ])
    expect(launchesOf(texts).map(launchText)).toEqual(texts)
  })

  it('ramps keep an address with its colons', () => {
    const [ramp] = rampsOf(['ramp:Pages:http://127.0.0.1:8000/a'])
    expect(ramp).toEqual({ app: 'Pages', opens: 'http://127.0.0.1:8000/a' })
    expect(rampText(ramp!)).toBe('ramp:Pages:http://127.0.0.1:8000/a')
    expect(rampText({ app: 'Pages', opens: '  ' })).toBe('ramp:Pages')
  })

  it('applications of a procedure are told apart by it', () => {
    expect(appsOf(['response:Menu', 'frames:Pages'], 'response')).toEqual(['Menu'])
  })

  it('plain ones are added and left out in the order in which they are done', () => {
    const added = withPlain(['footprint', 'boot'], 'idle', true, ORDER)
    expect(added).toEqual(['boot', 'idle', 'footprint'])
    expect(withPlain(added, 'idle', false, ORDER)).toEqual(['boot', 'footprint'])
  })

  it('a measure of one’s own is asked for once, with its step or without', () => {
    const asked = withOwn(['boot', 'command:sync'], 'sync', 'command:sync:after-boot', ORDER)
    expect(asked).toEqual(['boot', 'command:sync:after-boot'])
    expect(measureOf(asked[1]!)).toBe('sync')
    expect(measureOf('boot')).toBe('')
    expect(withOwn(asked, 'sync', '', ORDER)).toEqual(['boot'])
  })
})

describe('what keeps a plan from being started', () => {
  it('is nothing where question, contender and measure are there', () => {
    expect(missing(draft())).toEqual([])
  })
  it('is named, each part of it', () => {
    expect(missing(draft({ title: ' ', installs: [], procedures: [] }))).toEqual([
      'its question',
      'a contender',
      'what is measured',
    ])
  })
  it.each(['launch:', 'ramp:', 'response:', 'frames: '])('is an application without a name: %s', (text) => {
    expect(missing(draft({ procedures: [text] }))).toEqual(['the name of each application'])
  })
})

describe('looks', () => {
  it('after every block grow with the number of blocks', () => {
    const looks = everyBlock(4)
    expect(looks).toEqual([1, 2, 3, 4])
    expect(isEveryBlock(looks)).toBe(true)
    expect(withBlocks({ interim_looks: looks }, 6)).toEqual({ blocks: 6, interim_looks: everyBlock(6) })
  })
  it('at chosen blocks stay where they are', () => {
    expect(isEveryBlock([5, 10])).toBe(false)
    expect(isEveryBlock([1])).toBe(false)
    expect(withBlocks({ interim_looks: [5, 10] }, 12)).toEqual({ blocks: 12 })
  })
  it('are read from what is typed, without what is no number of blocks', () => {
    expect(numbersIn('5, 10 20')).toEqual([5, 10, 20])
    expect(numbersIn('5, x, 0, -3, 2.5')).toEqual([5])
    expect(numbersIn('')).toEqual([])
  })
})
