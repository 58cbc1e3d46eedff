export type Scale = { label: string; factor: number; decimals: number }

/** What stands where runs that timed out leave no number. */
export const BEYOND = 'beyond the limit'

/** A figure in the row's scale, without its unit; a true minus sign. */
export function figure(value: number | null, scale: Scale): string {
  if (value === null) return BEYOND
  const text = (Math.abs(value) / scale.factor).toFixed(scale.decimals)
  return value < 0 && Number(text) !== 0 ? `−${text}` : text
}

/** A figure with its unit. */
export const amount = (value: number | null, scale: Scale) =>
  value === null ? BEYOND : `${figure(value, scale)} ${scale.label}`.trim()

/** A difference: always with its sign, except zero. */
export function signed(value: number | null, scale: Scale): string {
  const text = figure(value, scale)
  return value !== null && value > 0 && Number(text) !== 0 ? `+${text}` : text
}

/** A share as people write it, to a tenth. */
export const percent = (share: number) => `${(100 * share).toFixed(1)} %`

/** A span of time as people say it: `1 h 50 min`, `1 min 10 s`. */
export function duration(seconds: number): string {
  const whole = Math.max(1, Math.round(seconds))
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60]
  if (h) return m ? `${h} h ${m} min` : `${h} h`
  if (m) return s && m < 10 ? `${m} min ${s} s` : `${m} min`
  return `${s} s`
}

/** A tick's figure: whole where it is whole. */
export const tick = (shown: number) => String(Math.round(shown * 1e6) / 1e6).replace('-', '−')

export const moment = (iso: string) =>
  new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })

export const count = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`

/** A unit as a word where a picture is titled. */
export const unitWord = (label: string) => ({ s: 'seconds', ms: 'milliseconds', '': 'count' })[label] ?? label

/** The time of day, as a clock shows it here. */
export const clock = (atMs: number) =>
  new Date(atMs).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
