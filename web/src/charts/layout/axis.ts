import { scaleLinear, scaleLog } from 'd3-scale'

import { tick, type Scale } from '@/format/numbers'

export type Axis = {
  place: (value: number) => number
  ticks: { x: number; label: string }[]
}

type Span = readonly [number, number]

const PX_PER_TICK = 60

/** A linear axis over values in canonical units, its ticks round in the shown unit. */
export function linearAxis(domain: Span, range: Span, scale: Scale, sign = false): Axis {
  const [low, high] = padded(domain)
  const shown = scaleLinear()
    .domain([low / scale.factor, high / scale.factor])
    .range([range[0], range[1]])
  const wanted = Math.max(3, Math.floor(Math.abs(range[1] - range[0]) / PX_PER_TICK))
  const ticks = shown.ticks(wanted).map((value) => ({
    x: shown(value),
    label: sign && value > 0 ? `+${tick(value)}` : tick(value),
  }))
  return { place: scaleLinear().domain([low, high]).range([range[0], range[1]]), ticks }
}

const LOG_ROOM = 1.06
const FEW = 3
const ROUND = /^[125]e/

/** A logarithmic axis over positive values: one step of it is one ratio. */
export function logAxis(domain: Span, range: Span, scale: Scale): Axis {
  const limits = [domain[0] / LOG_ROOM, domain[1] * LOG_ROOM]
  const shown = scaleLog()
    .domain(limits.map((limit) => limit / scale.factor))
    .range([range[0], range[1]])
  const round = shown.ticks().filter((value) => ROUND.test(value.toExponential()))
  const values =
    round.length < FEW
      ? scaleLinear()
          .domain(shown.domain())
          .ticks(2 * FEW)
      : round
  const place = scaleLog().domain(limits).range([range[0], range[1]])
  return { place, ticks: values.map((value) => ({ x: shown(value), label: tick(value) })) }
}

/** From how many times the least value on a log scale serves better. */
const SPREAD_OUT = 12

/** Whether values are all positive and so far apart that most would crowd at one end. */
export const isSpreadOut = (values: readonly number[]) =>
  values.length > 1 && Math.min(...values) > 0 && Math.max(...values) / Math.min(...values) > SPREAD_OUT

/** Room on both sides, and some width where all values are one. */
function padded([low, high]: Span): [number, number] {
  const room = high > low ? (high - low) * 0.05 : Math.abs(high) * 0.05 || 1
  return [low - room, high + room]
}
