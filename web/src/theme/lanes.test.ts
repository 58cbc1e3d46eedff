import { describe, expect, it } from 'vitest'

import { laneAppearance, markPath } from './lanes'
import { dark, light } from './tokens'

const channel = (hex: string, at: number) => {
  const c = parseInt(hex.slice(at, at + 2), 16) / 255
  return c <= 0.03928 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
}
const luminance = (hex: string) =>
  0.2126 * channel(hex, 1) + 0.7152 * channel(hex, 3) + 0.0722 * channel(hex, 5)
const contrast = (a: string, b: string) => {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y) as [number, number]
  return (high + 0.05) / (low + 0.05)
}

describe('lanes', () => {
  it('differ in colour and in mark', () => {
    const appearances = Array.from({ length: 9 }, (_, i) => laneAppearance(i + 1))
    expect(new Set(appearances.map((appearance) => appearance.colour)).size).toBe(9)
    expect(new Set(appearances.map((appearance) => markPath(appearance.mark, 5))).size).toBe(9)
  })
  it('stay told apart after the ninth', () => {
    const appearances = Array.from({ length: 18 }, (_, i) => JSON.stringify(laneAppearance(i + 1)))
    expect(new Set(appearances).size).toBe(18)
  })
})

describe('text on any ground reaches 4.5 to 1', () => {
  for (const [name, tokens] of Object.entries({ light, dark })) {
    const texts = Object.keys(tokens).filter((t) => !['paper', 'sheet', 'rule', 'chosen'].includes(t))
    it.each(texts)(`${name}: %s`, (text) => {
      for (const ground of ['paper', 'sheet', 'chosen'] as const) {
        expect(contrast(tokens[text as keyof typeof tokens], tokens[ground])).toBeGreaterThanOrEqual(4.5)
      }
    })
  }
})
