import type { Run, RunSheet } from '@/api/types'
import type { LivePhase } from '@/api/events'

const DOING: Record<string, string> = {
  'power-on': 'kernel',
  userspace: 'userspace',
  ready: 'ready',
  settling: 'settling',
  off: 'storing',
  begun: 'measuring',
  ordered: 'restarting',
  first_sign: 'up again',
}

/** What each run under way is doing, with the seconds since its last phase. */
export function stages(
  sheet: RunSheet,
  live: ReadonlyMap<string, LivePhase>,
  nowMs: number,
): ReadonlyMap<string, string> {
  const words = new Map<string, string>()
  for (const run of sheet.runs) {
    if (run.state !== 'running' && run.state !== 'leased') continue
    const phase = live.get(run.id)
    if (!phase) words.set(run.id, run.state === 'leased' ? 'waiting' : 'starting')
    else {
      const seconds = Math.max(0, Math.round((nowMs - phase.atMs) / 1000))
      words.set(run.id, `${DOING[phase.phase] ?? phase.phase}, ${seconds} s`)
    }
  }
  return words
}

/** The median length in seconds of the runs that are over, or of those like one of them; null before the first. */
export function typicalSeconds(sheet: RunSheet, like?: Run): number | null {
  const lengths = sheet.runs
    .filter((run) => !like || (run.lane_no === like.lane_no && run.procedure === like.procedure))
    .flatMap((run) =>
      run.started_at && run.finished_at
        ? [(Date.parse(run.finished_at) - Date.parse(run.started_at)) / 1000]
        : [],
    )
    .filter((length) => length > 0)
    .sort((a, b) => a - b)
  return lengths.length ? lengths[Math.floor(lengths.length / 2)]! : null
}
