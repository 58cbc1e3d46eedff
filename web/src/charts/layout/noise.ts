import type { Schemas } from '@/api/types'

/** A part of the noise: its standard deviation, and the limits of that. */
export type NoiseShare = Pick<Schemas['NoisePart'], 'source' | 'sd'> & {
  interval: { low: number; high: number } | null
}

export type NoiseLane = {
  part: NoiseShare
  y: number
  /** Where the bar ends, and the interval; null where it is not known. */
  end: number | null
  low: number | null
  high: number | null
}

export type NoiseLanes = { lanes: NoiseLane[]; left: number; right: number; height: number }

const NARROW = 520
const LANE = 46
/** Room for the figures right of the longest interval. */
const FIGURES = 190

/** One bar for each part of the noise, from nothing on; names stand left of it, or above it where there is no room. */
export function noiseLanes(parts: readonly NoiseShare[], width: number): NoiseLanes {
  const isNarrow = width < NARROW
  const [left, right] = [isNarrow ? 2 : 190, width - (isNarrow ? 8 : FIGURES)]
  const most = Math.max(...parts.map((part) => part.interval?.high ?? 0), 0)
  const at = (value: number) => (most > 0 ? left + ((right - left) * value) / most : left)
  const height = isNarrow ? LANE + 20 : LANE
  const lanes = parts.map((part, place) => ({
    part,
    y: place * height + height - 22,
    end: part.sd === null ? null : at(part.sd),
    low: part.interval ? at(part.interval.low) : null,
    high: part.interval ? at(part.interval.high) : null,
  }))
  return { lanes, left, right, height: parts.length * height + 6 }
}
