import { describe, expect, it } from 'vitest'

import { makeShortcutRegistry } from './shortcuts'

const key = (name: string, says: string) => ({ key: name, says, run: () => undefined })

describe('the book of keys', () => {
  it('puts the newest page first and forgets a page that is gone', () => {
    const book = makeShortcutRegistry()
    book.add(() => [key('p', 'whole'), key('?', 'keys')])
    const leave = book.add(() => [key('p', 'page')])
    expect(book.all().find((item) => item.key === 'p')?.says).toBe('page')
    leave()
    expect(book.all().map((item) => item.says)).toEqual(['whole', 'keys'])
  })
})
