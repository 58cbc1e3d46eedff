import { expect, test } from 'vitest'

import { matching } from './found'
import type { Thing } from '@/api/things'

const thing = (name: string, change: Partial<Thing> = {}): Thing => ({
  id: name,
  name,
  identity: {},
  is_put_away: false,
  aliases: [],
  installs: 0,
  studies: 0,
  stated: {},
  found: {},
  makes_guests: false,
  ...change,
})

test('a thing is found by its name, an earlier one, and what is stated of it', () => {
  const things = [
    thing('Varrow 12', { aliases: ['Varrow XII'] }),
    thing('Quillfern 8', { stated: { desktop: 'Tarnwick 3' }, identity: { release: '8' } }),
  ]
  const names = (typed: string) => matching(things, typed).map((one) => one.name)
  expect(names('')).toEqual(['Varrow 12', 'Quillfern 8'])
  expect(names('xii')).toEqual(['Varrow 12'])
  expect(names('tarnwick quill')).toEqual(['Quillfern 8'])
  expect(names('tarnwick varrow')).toEqual([])
})
