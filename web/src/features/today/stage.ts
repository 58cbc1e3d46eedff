import type { LivePhase } from '@/api/events'
import type { PlacedRun } from '@/api/types'
import { duration } from '@/format/numbers'

/** What a run under way is doing and for how long, in words. */
export function stageOf(run: PlacedRun['run'], phase: LivePhase | undefined, nowMs: number): string {
  const since = phase?.atMs ?? (run.started_at ? Date.parse(run.started_at) : null)
  const word = phase
    ? phase.phase.replaceAll('-', ' ')
    : run.state === 'leased'
      ? 'waiting for its turn'
      : 'started'
  const again = run.attempt > 1 ? `, try ${run.attempt}` : ''
  if (since === null) return `${word}${again}`
  return `${word}, ${duration(Math.max(0, (nowMs - since) / 1000))} ago${again}`
}
