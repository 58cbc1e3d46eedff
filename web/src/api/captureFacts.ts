import { moment } from '@/format/numbers'

import type { Capture } from './types'

/** A file of readings says of each reading when it was taken, or does not; of itself only when it was brought. */
const READINGS_FILE = 'readings-csv'

/** A capture's head as names and values, ready to be listed. */
export function captureFacts(capture: Capture | undefined): [string, string][] {
  if (!capture) return []
  return [
    [
      capture.kind === READINGS_FILE ? 'brought in' : 'taken',
      capture.made_at ? moment(capture.made_at) : 'at no time that could be read',
    ],
    ['capture', `${capture.kind}, sha256 ${capture.sha256.slice(0, 12)}…`],
    ...capture.faults.map((fault): [string, string] => ['fault', fault]),
    ...Object.entries(capture.conditions).map(([key, value]): [string, string] => [
      key.replaceAll('_', ' '),
      value,
    ]),
  ]
}
