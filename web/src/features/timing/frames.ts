/** Times of a recording: in frames, and as people write them. */

/** The interval between frames, from the times of some that followed one another; null where they tell none. */
export function frameInterval(times: readonly number[]): number | null {
  const steps = times
    .slice(1)
    .map((at, i) => at - times[i]!)
    .filter((step) => step > 0.0005)
    .sort((a, b) => a - b)
  if (steps.length < 5) return null
  // frames are dropped while it plays, never put in: the usual least step is that of the recording
  const least = steps.slice(0, Math.max(Math.ceil(steps.length / 2), 1))
  return least[Math.floor(least.length / 2)]!
}

const WRITTEN = /^(?:(\d{1,2}):)?(?:(\d{1,3}):)?(\d{1,5}(?:[.,]\d{1,4})?)$/

/** Seconds of `mm:ss.f`, `h:mm:ss` or plain seconds; null for anything else. */
export function secondsOf(text: string): number | null {
  const match = WRITTEN.exec(text.trim())
  if (!match) return null
  const [, first, second, last] = match
  const seconds = Number(last!.replace(',', '.'))
  if ((first ?? second) !== undefined && seconds >= 60) return null
  const hours = second === undefined ? 0 : Number(first ?? 0)
  const minutes = Number(second ?? first ?? 0)
  return hours * 3600 + minutes * 60 + seconds
}

export type Stretch = readonly [number, number]

/** Whether what lies between two instants is touched by a stretch that does not run at its true speed. */
export const isTouched = (from: number, to: number, stretches: readonly Stretch[]) =>
  stretches.some(([begin, end]) => Math.max(begin, from) < Math.min(end, to))

/** Minutes, seconds and thousandths. */
export const frameText = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(3).padStart(6, '0')}`
