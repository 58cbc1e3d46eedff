import { ProblemError } from './client'
import { pageHeaders } from './session'

/** A file of the server's: a plain link would not show the page's secret. */
export async function fetchFile(address: string): Promise<Blob> {
  const answer = await fetch(address, { headers: pageHeaders() })
  if (answer.ok) return answer.blob()
  const told = (await answer.json().catch(() => ({}))) as { detail?: string }
  throw new ProblemError(answer.status, told.detail ?? `the server answered ${answer.status}`)
}
