import { expect, test } from 'vitest'

import { browserName } from './words'

test('a browser is named as people name it', () => {
  expect(browserName('Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/156.0 Safari/537.36')).toBe(
    'Chrome on Linux',
  )
  expect(browserName('')).toBe('not stated')
})
