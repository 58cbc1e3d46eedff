import { QueryClient, QueryObserver } from '@tanstack/react-query'
import { expect, test } from 'vitest'

import { refresh } from './refresh'

/** A server whose answers are given when the test says so. */
function makeServer() {
  let value = 'before'
  const waiting: (() => void)[] = []
  return {
    change: () => void (value = 'after'),
    ask: () => {
      const read = value
      return new Promise<string>((resolve) => waiting.push(() => resolve(read)))
    },
    answer: async () => {
      waiting.shift()?.()
      for (let turn = 0; turn < 20; turn += 1) await Promise.resolve()
    },
  }
}

function watch(queries: QueryClient, ask: () => Promise<string>) {
  const observer = new QueryObserver(queries, { queryKey: ['study', 'a'], queryFn: ask, staleTime: 30_000 })
  const stop = observer.subscribe(() => undefined)
  return { stop, seen: () => observer.getCurrentResult().data }
}

test('a first answer from before the change is asked for once more', async () => {
  const [queries, server] = [new QueryClient(), makeServer()]
  const page = watch(queries, server.ask)
  server.change()
  void refresh(queries, { queryKey: ['study'] })
  await server.answer()
  await server.answer()
  expect(page.seen()).toBe('after')
  page.stop()
})

test('an answer that is there is replaced by one from after the change', async () => {
  const [queries, server] = [new QueryClient(), makeServer()]
  const page = watch(queries, server.ask)
  await server.answer()
  expect(page.seen()).toBe('before')
  server.change()
  void refresh(queries)
  await server.answer()
  expect(page.seen()).toBe('after')
  page.stop()
})
