import createClient from 'openapi-fetch'

import type { paths } from './schema'
import { pageHeaders } from './session'

export const client = createClient<paths>({ baseUrl: '' })

client.use({
  onRequest: ({ request }) => {
    for (const [name, value] of Object.entries(pageHeaders())) request.headers.set(name, value)
    return request
  },
})

/** What the server refused, in its own words. */
/** The server does not answer, or its database does not. */
const AWAY: ReadonlySet<number> = new Set([0, 503])

export class ProblemError extends Error {
  readonly status: number
  readonly isAway: boolean
  constructor(status: number, detail: string) {
    super(detail)
    this.status = status
    this.isAway = AWAY.has(status)
  }
}

/** Whether nothing is wrong but that somebody is away, who is waited for. */
export const isAway = (error: unknown) => error instanceof ProblemError && error.isAway

const AGAIN_MS = 2000

/** What is away is asked again every other second; pages go on by themselves once it is back. */
export const whileAway = (query: { state: { error: unknown } }) =>
  isAway(query.state.error) ? AGAIN_MS : false

type Answer<T> = { data?: T; error?: unknown; response: Response }

export async function answerOf<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await asked
  } catch {
    throw new ProblemError(0, 'The server does not answer. Is ./haremile still running?')
  }
  if (!answer.response.ok) {
    const detail = (answer.error as { detail?: unknown } | undefined)?.detail
    const said = typeof detail === 'string' ? detail : `it answered ${answer.response.status}`
    throw new ProblemError(answer.response.status, said)
  }
  return answer.data as T
}
