import { EventSource } from 'eventsource'

/** The secret that this page holds beside its cookie: cookies are sent to every port of a host. */
const KEPT = 'haremile.page'
const HEADER = 'Haremile-Page'
const ARRIVES = /^#page=([0-9a-f]+)$/

/** Takes the page's secret from the address, where it stands once, and keeps it for this origin. */
export function takePageSecret() {
  const arrived = ARRIVES.exec(window.location.hash)?.[1]
  if (!arrived) return
  localStorage.setItem(KEPT, arrived)
  history.replaceState(null, '', window.location.pathname + window.location.search)
}

/** What every request of this page carries. */
export const pageHeaders = (): Record<string, string> => {
  const secret = localStorage.getItem(KEPT)
  return secret ? { [HEADER]: secret } : {}
}

export const forgetPageSecret = () => localStorage.removeItem(KEPT)

/** The events behind an address, as the server sends them, until the stream is closed. */
export function openEvents(address: string, onMessage: (data: string) => void): () => void {
  const source = new EventSource(address, {
    fetch: (input, init) => fetch(input, { ...init, headers: { ...init.headers, ...pageHeaders() } }),
  })
  source.onmessage = (message) => onMessage(String(message.data))
  return () => source.close()
}
