import { scaleLinear, type ScaleLinear } from 'd3-scale'

import { tick, type Scale } from '@/format/numbers'

export type Axis = {
  place: ScaleLinear<number, number>
  ticks: { x: number; label: string }[]
}

/** A linear axis over values in canonical units, its ticks round in the shown unit. */
export function linearAxis(
  domain: readonly [number, number],
  range: readonly [number, number],
  scale: Scale,
  sign = false,
): Axis {
  const [low, high] = padded(domain)
  const shown = scaleLinear()
    .domain([low / scale.factor, high / scale.factor])
    .range([range[0], range[1]])
  const wanted = Math.max(4, Math.floor((range[1] - range[0]) / 60))
  const ticks = shown.ticks(wanted).map((value) => ({
    x: shown(value),
    label: sign && value > 0 ? `+${tick(value)}` : tick(value),
  }))
  const place = scaleLinear().domain([low, high]).range([range[0], range[1]])
  return { place, ticks }
}

/** Room on both sides, and some width where all values are one. */
function padded([low, high]: readonly [number, number]): [number, number] {
  const room = high > low ? (high - low) * 0.05 : Math.abs(high) * 0.05 || 1
  return [low - room, high + room]
}
