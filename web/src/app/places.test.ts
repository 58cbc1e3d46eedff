import { expect, test } from 'vitest'

import type { StudyDigest } from '@/api/types'

import { placesOf } from './places'

const thing = (name: string, aliases: string[] = []) => ({
  id: name,
  name,
  aliases,
  identity: {},
  is_put_away: false,
  installs: 0,
  studies: 0,
  stated: {},
  found: {},
  makes_guests: false,
})

const study = {
  id: 's',
  title: 'Which?',
  contenders: ['Varrow 12'],
  machines: ['Laptop'],
} as unknown as StudyDigest

test('pages, studies, systems and machines are gone to by name, earlier name and who takes part', () => {
  const places = placesOf(
    [{ path: 'today', label: 'Today' }],
    [
      { ...study, runs: 4, finished: 4 },
      { ...study, id: 't', runs: 4, finished: 1 },
    ],
    [thing('Varrow 12', ['Varrow XII'])],
    [thing('Laptop')],
  )
  expect(places.map((one) => [one.kind, one.to])).toEqual([
    ['Pages', '/today'],
    ['Studies', '/studies/s/findings'],
    ['Studies', '/studies/t/run'],
    ['Systems', '/library/systems/Varrow 12'],
    ['Machines', '/library/machines/Laptop'],
  ])
  expect(places[1]!.words).toContain('varrow 12')
  expect(places[3]!.words).toContain('xii')
})
