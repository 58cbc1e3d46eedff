import { expect, test } from 'vitest'

import type { Study } from '@/api/types'

import { factGroups } from './factColumns'

const contender = (lane_no: number, entrant: string) => ({ lane_no, entrant }) as Study['contenders'][number]

test('one system on several machines is one group, in the order of the first lanes', () => {
  const groups = factGroups([
    contender(1, 'Varrow 12'),
    contender(2, 'Quillfern 8'),
    contender(3, 'Varrow 12'),
  ])
  expect(groups.map((one) => [one.name, one.contenders.map((own) => own.lane_no)])).toEqual([
    ['Varrow 12', [1, 3]],
    ['Quillfern 8', [2]],
  ])
})
