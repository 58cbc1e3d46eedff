import { describe, expect, it } from 'vitest'

import { captureFacts } from './captureFacts'
import { answerOf, ProblemError, whileAway } from './client'
import type { Capture } from './types'

const reply = (status: number) => ({ response: new Response(null, { status }) })

describe('an answer', () => {
  it('is its data', async () => {
    await expect(answerOf(Promise.resolve({ ...reply(200), data: [1] }))).resolves.toEqual([1])
  })
  it('or the problem in the server’s own words', async () => {
    const refused = answerOf(Promise.resolve({ ...reply(409), error: { detail: 'already running' } }))
    await expect(refused).rejects.toThrow('already running')
    await expect(refused).rejects.toBeInstanceOf(ProblemError)
  })
  it('or says what to do where the server is away', async () => {
    await expect(answerOf(Promise.reject(new TypeError('failed')))).rejects.toThrow('still running?')
  })
  it('names the status where there are no words', async () => {
    await expect(answerOf(Promise.resolve(reply(500)))).rejects.toThrow('it answered 500')
  })
})

describe('a capture’s head', () => {
  const capture: Capture = {
    id: 'x',
    sha256: 'abcdef0123456789',
    made_at: '2026-10-05T08:00:00Z',
    kind: 'haremile-capture/1',
    conditions: { settle_rule: 'window 3 s' },
    evidence: [],
    faults: ['denied: tables'],
    reason: null,
  }
  it('lists faults before conditions, keys readable', () => {
    const names = captureFacts(capture).map(([name]) => name)
    expect(names).toEqual(['taken', 'capture', 'fault', 'settle rule'])
  })
  it('is empty while it is fetched', () => {
    expect(captureFacts(undefined)).toEqual([])
  })
})

it('who is away is asked again, who refuses is not', () => {
  const after = (status: number) => whileAway({ state: { error: new ProblemError(status, 'no') } })
  expect([after(0), after(503)].map(Boolean)).toEqual([true, true])
  expect([after(404), after(500), whileAway({ state: { error: null } })]).toEqual([false, false, false])
})
