import { expect, test } from 'vitest'

import { partSaid } from '../NoisePicture'
import { noiseLanes, type NoiseShare } from './noise'

const scale = { label: 's', factor: 1, decimals: 2 }
const part = (source: NoiseShare['source'], sd: number | null, high = 0): NoiseShare => ({
  source,
  sd,
  interval: sd === null ? null : { low: sd / 2, high },
})

test('bars start at nothing and the longest interval ends where the figures begin', () => {
  const { lanes, left, right } = noiseLanes([part('blocks', 0.2, 0.4), part('runs', 0.4, 0.8)], 800)
  expect(lanes[1]!.high).toBe(right)
  expect(lanes[1]!.end! - left).toBeCloseTo(2 * (lanes[0]!.end! - left))
})

test('what is not known has no bar and says so', () => {
  const unknown = part('installs', null)
  expect(noiseLanes([unknown, part('runs', 0.1, 0.2)], 360).lanes[0]!.end).toBeNull()
  expect(partSaid(unknown, scale)).toBe('not known here')
  expect(partSaid(part('runs', 0.1, 0.2), scale)).toBe('0.10 s (0.05 to 0.20)')
})
