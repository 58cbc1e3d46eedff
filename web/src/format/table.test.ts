import { describe, expect, it } from 'vitest'

import { csvOf, folded } from './table'

describe('a table as a file', () => {
  it('quotes what would break a line, and leaves nothing for what was not read', () => {
    expect(
      csvOf({
        head: ['a', 'b'],
        rows: [
          ['x, "y"', null],
          [1.5, 'z'],
        ],
      }),
    ).toBe('a,b\n"x, ""y""",\n1.5,z\n')
  })
})

describe('folded text', () => {
  it('breaks between words only', () => {
    expect(folded('one two three', 8)).toEqual(['one two', 'three'])
    expect(folded('unbreakable', 3)).toEqual(['unbreakable'])
  })
})
