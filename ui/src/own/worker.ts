/** Keeps a student's own page on the phone for when the connection is away: the network first, else what was shown last. */
/// <reference lib="webworker" />
declare const self: ServiceWorkerGlobalScope
const KEPT = 'lacertus-own-1'
const LARGEST_BYTES = 3_000_000

self.addEventListener('install', () => void self.skipWaiting())
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

/** What is worth keeping: pages, pictures, the script and the face, not films and files. */
function isKept(request: Request, url: URL): boolean {
  if (request.method !== 'GET' || url.origin !== self.location.origin || request.headers.has('range')) return false
  return !/\.(zip|pdf|mp4)$|\/film\//.test(url.pathname)
}

async function answered(request: Request): Promise<Response> {
  const cache = await caches.open(KEPT)
  const url = new URL(request.url)
  const key = url.origin + url.pathname
  try {
    const fresh = await fetch(request)
    if (fresh.ok && Number(fresh.headers.get('content-length') ?? 0) < LARGEST_BYTES)
      await cache.put(key, fresh.clone())
    // A link that was withdrawn leaves nothing on the phone.
    if (fresh.status === 404 && request.mode === 'navigate') await caches.delete(KEPT)
    return fresh
  } catch (error) {
    const before = await cache.match(key)
    if (before) return before
    throw error
  }
}

self.addEventListener('fetch', (event) => {
  if (isKept(event.request, new URL(event.request.url))) event.respondWith(answered(event.request))
})

export {}
