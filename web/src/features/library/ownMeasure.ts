import type { OwnMeasure } from '@/api/ownMeasures'

/** Units that are converted, each with what stands behind a figure. */
export const UNITS = [
  { id: 's', name: 'seconds', short: 's' },
  { id: 'B', name: 'bytes', short: 'B' },
  { id: 'B/s', name: 'bytes per second', short: 'B/s' },
  { id: '1/s', name: 'per second', short: '/s' },
  { id: 'share', name: 'a share', short: 'as 0.05 for 5 %' },
  { id: '1', name: 'a number without unit', short: 'no unit' },
]

/** A typed figure: null where nothing is typed, undefined where it is no positive number. */
export function numberIn(text: string): number | null | undefined {
  if (!text.trim()) return null
  const value = Number(text)
  return value > 0 && Number.isFinite(value) ? value : undefined
}

export const wordsOf = (value: number | null | undefined) =>
  value === null || value === undefined ? '' : String(Number(value.toPrecision(9)))

const ENDS = { low: 'less is better', high: 'more is better', none: 'judges nobody' } as const

/** A measure in one line: how it is told, and what matters. */
export function measureLine(one: OwnMeasure): string {
  const unit = UNITS.find((known) => known.id === one.unit)?.name ?? `in ${one.unit}`
  const short = one.unit === '1' || one.unit === 'share' ? '' : ` ${one.unit}`
  const margin = [
    one.margin.amount && `${wordsOf(one.margin.amount)}${short}`,
    one.margin.share && `${wordsOf(one.margin.share * 100)} %`,
  ].filter(Boolean)
  return [
    unit,
    ENDS[one.good_end],
    margin.length ? `${margin.join(' or ')} matters` : 'no margin: nobody is said to be ahead',
    one.resolution && `in steps of ${wordsOf(one.resolution)}${short}`,
  ]
    .filter(Boolean)
    .join(' · ')
}
