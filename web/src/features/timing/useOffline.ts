import { useEffect, useRef, useState } from 'react'

/**
 * Keeps this page and its parts in the browser, where it may: over HTTPS, and on the server's own computer. `onReady` is
 * called once what the page asks for goes through what keeps it. Tells whether the browser refused to keep it.
 */
export function useOffline(onReady: () => void): boolean {
  const [isRefused, setRefused] = useState(false)
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
      () => setRefused(true), // a private window, or a certificate that the device does not trust
    )
    return () => workers.removeEventListener('controllerchange', ready)
  }, [])
  return isRefused
}
