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
export class ProblemError extends Error {
  readonly status: number
  constructor(status: number, detail: string) {
    super(detail)
    this.status = status
  }
}

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
