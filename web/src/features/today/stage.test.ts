import { expect, test } from 'vitest'

import { stageOf } from './stage'

const run = {
  id: 'r',
  lane_no: 1,
  block: 2,
  procedure: 'boot',
  state: 'running' as const,
  attempt: 1,
  study_id: 's',
  contender_id: 'c',
  position: 2,
  reason: null,
  conditions: {},
  finished_at: null,
  started_at: '2026-10-05T08:00:00Z',
}
const at = Date.parse(run.started_at)

test('a run tells its last phase and how long ago that was', () => {
  expect(stageOf(run, { phase: 'power-on', atMs: at + 1000 }, at + 13_000)).toBe('power on, 12 s ago')
})
test('before its first phase it tells since when it goes, and which try it is', () => {
  expect(stageOf({ ...run, attempt: 2 }, undefined, at + 70_000)).toBe('started, 1 min 10 s ago, try 2')
})
test('a run that was only handed out waits for its turn', () => {
  expect(stageOf({ ...run, state: 'leased', started_at: null }, undefined, at)).toBe('waiting for its turn')
})
