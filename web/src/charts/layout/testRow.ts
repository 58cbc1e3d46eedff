import type { FindingRow, Pair, ReadingColumns, Run, RunSheet } from '@/api/types'

/** Small makers of API data for the layout's tests. */
const interval = (low: number, high: number) => ({ low, high, level: 0.95 })

const pair = (a: number, b: number, value: number): Pair => ({
  a,
  b,
  verdict: 'behind',
  lean: null,
  ratio: null,
  probability_b_lower: 0,
  sentence: '',
  verdict_text: 'behind',
  repeats_needed: null,
  shift: { value, interval: interval(value - 0.5, value + 0.5) },
})

export const row = (change: Partial<FindingRow> = {}): FindingRow => ({
  key: 'k',
  metric: 'boot.total',
  label: 'Power-on to ready',
  unit: 's',
  good_end: 'low',
  method: 'serial',
  machine: 'Bench',
  start: null,
  facet: '',
  procedure: 'boot',
  scale: { label: 's', factor: 1, decimals: 1 },
  margin: { share: null, amount: 0.5 },
  margin_text: '0.5 s',
  verdict_text: 'ahead',
  family: 1,
  verdict: 'ahead',
  leader: 1,
  headline: '',
  sentence: '',
  fair_start: [],
  scope: 'these installs',
  lanes: [1, 2].map((lane_no) => ({
    lane_no,
    failed: lane_no - 1,
    stalled: 0,
    slow_first: lane_no === 1,
    set_aside: 0,
    corrected: 0,
    breaks: [],
    summary: {
      n: 3,
      timed_out: 0,
      median: 10 * lane_no,
      median_interval: interval(10 * lane_no - 1, 10 * lane_no + 1),
      widest_interval: interval(0, 30),
      q1: 0,
      q3: 0,
      p90: 0,
      iqr: 0,
      mad: 0,
      mean: 0,
      sd: 0,
      minimum: 0,
      maximum: 0,
    },
  })),
  pairs: [pair(1, 2, 10), pair(2, 1, -10)],
  ...change,
})

export const columns = (): ReadingColumns => ({
  id: ['a', 'b', 'c', 'd'],
  run_id: ['a', 'b', 'c', 'd'],
  block: [1, 1, 2, 2],
  lane_no: [1, 2, 1, 2],
  value: [13, 20, 10, 21],
  set_aside: [null, null, 'lid', null],
  value_before: [null, null, null, null],
  row: ['k', 'k', 'k', 'other'],
})

export const run = (change: Partial<Run>): Run => ({
  id: String(Math.random()),
  lane_no: 1,
  block: 1,
  position: 1,
  procedure: 'boot',
  state: 'done',
  attempt: 1,
  reason: null,
  conditions: {},
  started_at: null,
  finished_at: null,
  value: 10,
  is_set_aside: false,
  ...change,
})

export const sheet = (runs: Run[]): RunSheet => ({
  metric: 'boot.total',
  procedure: 'boot',
  label: 'Power-on to ready',
  good_end: 'low',
  scale: { label: 's', factor: 1, decimals: 1 },
  margin_amount: 0.5,
  runs,
  lanes: [],
  last_event: 0,
  next_after: null,
})
