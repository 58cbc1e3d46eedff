import { expect, test } from 'vitest'

import type { Run } from '@/api/types'

import { skippedSaid } from './RunTable'

const run = (block: number, state: Run['state'], reason: string | null = null) =>
  ({ id: `${block}`, block, state, reason }) as Run

test('runs that were left out are told with their blocks and why', () => {
  const runs = [
    run(1, 'done'),
    run(2, 'skipped', 'not needed'),
    run(3, 'skipped', 'not needed'),
    run(4, 'skipped'),
  ]
  expect(skippedSaid(runs)).toEqual([
    '2 runs of blocks 2 to 3 skipped: not needed.',
    '1 run of block 4 skipped.',
  ])
  expect(skippedSaid([run(1, 'done')])).toEqual([])
})
