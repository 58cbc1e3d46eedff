import { useEffect, useRef } from 'react'

/**
 * Keeps this page and its parts in the browser, where it may: over HTTPS, and on the server's own computer. `onReady` is
 * called once what the page asks for goes through what keeps it.
 */
export function useOffline(onReady: () => void) {
  const latest = useRef(onReady)
  useEffect(() => {
    latest.current = onReady
  })
  useEffect(() => {
    if (!window.isSecureContext || !('serviceWorker' in navigator)) return
    const workers = navigator.serviceWorker
    const ready = () => latest.current()
    workers.addEventListener('controllerchange', ready)
    workers.register('/offline.js').then(
      async () => {
        const found = await workers.ready
        const parts = performance
          .getEntriesByType('resource')
          .map((one) => one.name)
          .filter((name) => name.includes('/assets/'))
        found.active?.postMessage(parts)
        if (workers.controller) ready()
      },
      () => undefined, // the browser keeps nothing, as in a private window: the page says so where it matters
    )
    return () => workers.removeEventListener('controllerchange', ready)
  }, [])
}
