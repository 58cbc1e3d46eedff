import { expect, test } from 'vitest'

import { actFacts, actWords } from './acts'

test('an act is told in words, an unknown one by its own name', () => {
  expect(actWords('reading.set_aside')).toBe('set a reading aside')
  expect(actWords('bench.cleaned_up')).toBe('bench: cleaned up')
})

test('the facts of an act tell what was before, and leave out what tells nothing', () => {
  expect(actFacts({ reason: 'updates ran', was: null, reading: '0190' })).toBe('reason updates ran')
  expect(actFacts({ system: 'Varrow 12', was: {}, is: { image: 'a.qcow2' } })).toBe(
    'system Varrow 12 · before nothing · now image=a.qcow2',
  )
})
