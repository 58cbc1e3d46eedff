import { describe, expect, it } from 'vitest'

import { details, headline, looksCost, told, type OutlookLine } from './outlookWords'

const line = (found: Partial<OutlookLine['found']> = {}, change: Partial<OutlookLine> = {}): OutlookLine =>
  ({
    label: 'Power-on to ready',
    is_headline: true,
    scale: { label: 's', factor: 1, decimals: 1 },
    found: {
      machine: 'Bench',
      readings: 40,
      installs: 2,
      method: 'between installs',
      spread: 0.4,
      margin: 0.5,
      smallest: 0.7,
      leader: 0.7,
      level_repeats: 18,
      ...found,
    },
    ...change,
  }) as unknown as OutlookLine

describe('what a measure will tell', () => {
  it('is the smallest difference, and when it is called level', () => {
    expect(told(line(), false)).toBe('tells 0.7 s; level: 18 repeats')
    expect(told(line({ level_repeats: null }), false)).toBe('tells 0.7 s; never calls it level')
    expect(told(line({ level_repeats: 1 }), false)).toContain('level: 1 repeat')
  })
  it.each([
    [{ spread: null, readings: 3 }, 'too few readings to tell from'],
    [{ spread: null, readings: 0 }, 'no readings to tell from'],
    [{ margin: null }, 'no margin, so no verdict'],
    [{ smallest: null }, 'too few repeats for any verdict'],
  ])('is said to be unknown, with its reason: %o', (found, says) => {
    expect(told(line(found), false)).toBe(says)
  })
  it('of one contender is how it scatters', () => {
    expect(told(line(), true)).toBe('scatters by 0.4 s')
  })
})

describe('what the plan tells, from two metres', () => {
  it('names the first measure and counts the rest', () => {
    expect(headline([line()], false)).toBe('Tells power-on to ready apart from 0.7 s on')
    expect(headline([line(), line(), line()], false)).toContain(', and 2 measures more')
  })
  it('says what to do where nothing is known', () => {
    expect(headline([line({ smallest: null })], false)).toBe('Too few repeats for any verdict')
    expect(headline([line({ smallest: null, spread: null })], false)).toBe(
      'Not known yet: a few blocks first',
    )
    expect(headline([], true)).toBe('One contender: a summary, no verdict')
  })
})

describe('what looks cost', () => {
  it('is nothing with one look', () => {
    expect(looksCost({ looks_most: 1, looks_typical: 1 }, 20)).toBe('')
  })
  it('is told in repeats', () => {
    const says = looksCost({ looks_most: 1.25, looks_typical: 0.9 }, 20)
    expect(says).toBe('What 16 repeats would tell with one look takes up to 20 this way, 14 on average.')
  })
})

describe('from what it is known', () => {
  it('is told with readings, installs and spread', () => {
    expect(details(line())).toContain('from 40 readings of 2 installs (between installs)')
    expect(details(line())).not.toContain('leader')
    expect(details(line({ leader: 0.9 }))).toContain(
      'A leader is told from all others at once from 0.9 s on.',
    )
  })
  it('or what has to be measured first', () => {
    expect(details(line({ spread: null, readings: 0 }))).toContain('run a pilot of a few blocks')
    expect(details(line({ spread: null, readings: 1 }))).toContain('only 1 reading of it')
  })
})
