/** A clock that goes on over a reload and over sleep, and says where it had to be mended. */

export type ClockState = {
  /** The day's clock at the begin, and how far the page's own one had come then. */
  wall0: number
  mono0: number
  /** Which load of the page `mono0` belongs to. */
  page: number
  /** Milliseconds by which the page's clock stood still since. */
  added: number
}

export const SLEPT_MS = 400

/** One load of the page has one. */
const page = Math.round(performance.timeOrigin)

export const startClock = (mono: number, wall: number): ClockState => ({
  wall0: wall,
  mono0: mono,
  page,
  added: 0,
})

/**
 * The clock as it goes on now. Within one load of the page its own clock counts, which only goes forward; where the
 * day's clock got ahead of it, the device slept, and the difference is added. After a reload the day's clock takes over.
 */
export function carried(
  clock: ClockState,
  mono: number,
  wall: number,
  here = page,
): { clock: ClockState; note: string | null } {
  const byDay = wall - clock.wall0
  if (clock.page !== here) {
    const since = Math.max(byDay, 0)
    return {
      clock: { wall0: clock.wall0, mono0: mono - since, page: here, added: 0 },
      note: 'the page was loaded anew: the race went on by the clock of the day',
    }
  }
  const ahead = byDay - (mono - clock.mono0 + clock.added)
  if (Math.abs(ahead) < SLEPT_MS) return { clock, note: null }
  if (ahead < 0)
    return {
      clock: { ...clock, wall0: wall - (mono - clock.mono0 + clock.added) },
      note: 'the clock of the day was set back: the race went on by the page’s own',
    }
  return {
    clock: { ...clock, added: clock.added + ahead },
    note: `the device slept, or its clock was set, for ${(ahead / 1000).toFixed(1)} s: added by the clock of the day`,
  }
}

export const elapsed = (clock: ClockState, mono: number) => Math.max(mono - clock.mono0 + clock.added, 0)
