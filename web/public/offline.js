/* Lets the timing page be loaded anew without the network: it keeps that page, its parts, and what never changes. */
const KEPT = 'haremile-timing'
const PAGE = '/timing'
const ANSWERS = ['/api/by-hand/marks', '/api/by-hand/drills/newest']

self.addEventListener('install', () => self.skipWaiting())
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

/** The page tells what it was made of, for it was loaded before this was here. */
self.addEventListener('message', (event) => {
  const own = event.data.filter((address) => new URL(address).origin === self.location.origin)
  event.waitUntil(caches.open(KEPT).then((cache) => cache.addAll([...new Set([PAGE, ...own])])))
})

async function keptFirst(request) {
  return (await caches.match(request, { ignoreVary: true })) ?? freshFirst(request)
}

async function freshFirst(request) {
  const cache = await caches.open(KEPT)
  try {
    // eslint-disable-next-line no-restricted-globals -- what the page asks for goes through here
    const fresh = await fetch(request)
    if (fresh.ok) await cache.put(request, fresh.clone())
    return fresh
  } catch (error) {
    const before = await cache.match(request, { ignoreVary: true })
    if (before) return before
    throw error
  }
}

self.addEventListener('fetch', (event) => {
  const { request } = event
  const { origin, pathname } = new URL(request.url)
  if (request.method !== 'GET' || origin !== self.location.origin) return
  if (pathname.startsWith('/assets/')) event.respondWith(keptFirst(request))
  else if (ANSWERS.includes(pathname) || (request.mode === 'navigate' && pathname === PAGE))
    event.respondWith(freshFirst(request))
})
