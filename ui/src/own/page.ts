/** A student's own page: sends what is written, later where the connection is away, and clips that go on after a break. */
import { Upload } from 'tus-js-client'
import { inPage, newKey, onDevice, Queue, type Answer, type Kept } from './queue'

const RETRY_MS = [500, 2000, 5000, 10_000, 20_000, 30_000]
const LOOK_MS = 15_000
const CHUNK_BYTES = 4_000_000
/** Answers after which the same is tried again: too slow, in conflict with another sender, held by one. */
const PASSING = [408, 409, 423]
const base = document.body.dataset['base'] ?? ''
const notice = document.querySelector<HTMLElement>('#waiting')

function kept(): { place: Kept; lasts: boolean } {
  try {
    if (window.indexedDB) return { place: onDevice(), lasts: true }
  } catch {
    // A browser that keeps nothing, as in a private window: the open page keeps it.
  }
  return { place: inPage(), lasts: false }
}

const { place, lasts } = kept()
const queue = new Queue(place)

function tell(text: string, bad = false): void {
  if (!notice) return
  notice.textContent = text
  notice.classList.toggle('bad', bad)
  notice.hidden = !text
}

function tellAnswer(answer: Answer): void {
  const words = notice?.dataset ?? {}
  if (answer.kind === 'sent') tell(words['sent'] ?? '')
  if (answer.kind === 'refused') tell(`${words['refused'] ?? ''} ${answer.why}`, true)
  if (answer.kind === 'away') tell((lasts ? words['one'] : words['open']) ?? '', true)
}

// --- forms -------------------------------------------------------------------------------------------

for (const form of document.querySelectorAll<HTMLFormElement>('form[data-later]')) {
  form.addEventListener('submit', (event) => {
    event.preventDefault()
    const fields = Object.fromEntries([...new FormData(form)].map(([name, value]) => [name, String(value)]))
    const button = form.querySelector('button')
    if (button) button.disabled = true
    void queue.add(fields['key'] ?? newKey(), { to: form.action, fields }).then((answer) => {
      if (button) button.disabled = false
      tellAnswer(answer)
      notice?.scrollIntoView({ block: 'nearest' })
      if (answer.kind === 'refused') return
      form.reset()
      const key = form.querySelector<HTMLInputElement>('input[name=key]')
      if (key) key.value = newKey()
      // What was written stands on the page, with its answer later.
      if (answer.kind === 'sent') location.assign(`${base}?sent=yes`)
    })
  })
}

async function flush(): Promise<void> {
  if ((await queue.waiting()) === 0) return
  const last = (await queue.flush()).at(-1)
  if (last) tellAnswer(last)
}

window.addEventListener('online', () => void flush())
setInterval(() => void flush(), LOOK_MS)
void flush()

// --- clips -------------------------------------------------------------------------------------------

const form = document.querySelector<HTMLFormElement>('#send-clip')
const file = document.querySelector<HTMLInputElement>('#file')
const state = document.querySelector<HTMLElement>('#clip-state')
const progress = document.querySelector<HTMLProgressElement>('#clip-progress')

function said(id: string): string {
  return document.querySelector<HTMLSelectElement | HTMLTextAreaElement>(id)?.value.trim() ?? ''
}

function today(): string {
  const now = new Date()
  return [now.getFullYear(), now.getMonth() + 1, now.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
}

function tellClip(words: string | undefined, bad = false): void {
  if (!state) return
  state.textContent = words ?? ''
  state.className = words ? (bad ? 'notice bad' : 'notice') : ''
}

function sendClip(chosen: File): void {
  if (!form || !state || !progress) return
  const side = form.querySelector<HTMLInputElement>('input[name=side]:checked')?.value ?? ''
  const upload = new Upload(chosen, {
    endpoint: `${base}/uploads`,
    chunkSize: CHUNK_BYTES,
    retryDelays: RETRY_MS,
    removeFingerprintOnSuccess: true,
    metadata: {
      filename: chosen.name || 'clip.mp4',
      filmed_on: today(),
      technique: said('#technique'),
      side,
      question: said('#asked'),
      drill: said('#drill'),
    },
    onProgress: (done, all) => {
      const share = Math.floor((100 * done) / Math.max(all, 1))
      progress.hidden = false
      progress.value = share
      tellClip(state.dataset['sending']?.replace('{share}', String(share)))
    },
    onShouldRetry: (error) => {
      const status = error.originalResponse?.getStatus() ?? 0
      const again = status === 0 || status >= 500 || PASSING.includes(status)
      if (again) tellClip(state.dataset['waiting'], true)
      return again
    },
    onSuccess: () => {
      progress.hidden = true
      form.reset()
      setBusy(false)
      tellClip(state.dataset['done'])
    },
    onError: (error) => {
      setBusy(false)
      const answer = 'originalResponse' in error ? error.originalResponse?.getBody() : ''
      tellClip(answer ? reason(answer) : state.dataset['resume'], true)
    },
  })
  setBusy(true)
  void upload.findPreviousUploads().then((before) => {
    const [first] = before
    if (first) upload.resumeFromPreviousUpload(first)
    upload.start()
  })
}

function reason(body: string): string {
  try {
    const told: unknown = JSON.parse(body)
    if (told && typeof told === 'object' && 'message' in told) return String(told.message)
  } catch {
    // An answer that is not ours: what it says is no reason that anybody could act on.
  }
  return state?.dataset['waiting'] ?? ''
}

function setBusy(busy: boolean): void {
  for (const field of form?.querySelectorAll<HTMLInputElement | HTMLButtonElement>('input, select, textarea, button') ??
    [])
    field.disabled = busy
}

form?.addEventListener('submit', (event) => {
  event.preventDefault()
  const chosen = file?.files?.[0]
  if (chosen) sendClip(chosen)
})

if ('serviceWorker' in navigator)
  void navigator.serviceWorker.register('/me/worker.js', { scope: '/me/' }).catch((error: unknown) => {
    // The page works without; it only cannot be opened while the connection is away.
    console.info('This page is not kept on the phone:', error)
  })
