import { expect, test } from 'vitest'

import { askedOf, questionSaid, typedBands } from './asked'
import { askedTotals, typedEnds } from './askedTotals'

const viewOf = (search: URLSearchParams) => ({
  get: (name: string) => search.get(name) ?? '',
  put: () => undefined,
  go: () => undefined,
})

test('the address asks for a list, conditions and an empty start with it', () => {
  const search = new URLSearchParams('metric=boot.total&method=probe&since=2024&newest=only&held.medium=live')
  expect(askedOf(viewOf(search), search)).toEqual({
    metric: 'boot.total',
    method: 'probe',
    start: '',
    facet: '',
    since: 2024,
    newest_only: true,
    held: ['medium:live'],
  })
  const nothing = new URLSearchParams()
  expect(askedOf(viewOf(nothing), nothing)).toEqual({})
})

test('a method is said only where a measure was taken in several ways', () => {
  const one = {
    metric: 'a',
    label: 'Idle memory',
    method: 'probe',
    start: '',
    facet: '',
    studies: 1,
    systems: 1,
  }
  expect(questionSaid(one, [one])).toBe('Idle memory')
  expect(questionSaid(one, [one, { ...one, method: 'host-marker' }])).toBe('Idle memory, probe')
  expect(questionSaid({ ...one, start: 'first-after-boot', facet: 'Wayfarrow' }, [one])).toBe(
    'Idle memory, first after boot, Wayfarrow',
  )
})

test('bands are typed as names and limits by turns', () => {
  expect(typedBands('light, 400 MiB, heavy')).toEqual({ names: ['light', 'heavy'], limits: ['400 MiB'] })
  for (const wrong of ['light', 'light, 400 MiB', 'light,, heavy']) expect(typedBands(wrong)).toBeNull()
})

test('weights and ends of a total stand in the address', () => {
  const search = new URLSearchParams('w.boot.total|probe||=2&w.x=0&zero=50&hundred=150&ref=Varrow')
  expect(askedTotals(viewOf(search), search)).toEqual({
    reference: 'Varrow',
    nothing: 50,
    hundred: 150,
    weight: ['boot.total|probe||:2'],
  })
  expect(typedEnds('50 to 150')).toEqual({ zero: '50', hundred: '150' })
  expect(typedEnds('150 to 50')).toBeNull()
})
