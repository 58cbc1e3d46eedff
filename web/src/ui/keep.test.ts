import { describe, expect, it } from 'vitest'

import { fileName, headLines } from './keep'
import { fitOf } from './useFit'

describe('the name of a kept file', () => {
  it('holds letters, figures and dashes only', () => {
    expect(fileName('Which edition?', 'Power-on to ready')).toBe('which-edition-power-on-to-ready')
    expect(fileName('x'.repeat(200)).length).toBe(80)
  })
})

describe('what stands above a kept picture', () => {
  it('is the finding, large enough to be read at a third of its size, then the sentence, folded', () => {
    const { lines, height } = headLines(['Varrow ahead by 2 s', 'word '.repeat(60).trim(), 'n = 9'], 800)
    expect(lines[0]!.size / 3).toBeGreaterThan(11)
    expect(lines.length).toBeGreaterThan(4)
    expect(lines.map((line) => line.y)).toEqual([...lines.map((line) => line.y)].sort((a, b) => a - b))
    expect(height).toBeGreaterThan(lines.at(-1)!.y)
  })
})

describe('what is printed', () => {
  it('is made as small as one page takes, and no smaller than can be read', () => {
    expect(fitOf(500, 500)).toBe(1)
    expect(fitOf(960, 1500)).toBeCloseTo(2 / 3)
    expect(fitOf(960, 9000)).toBe(0.4)
  })
})
