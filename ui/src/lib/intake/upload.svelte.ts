import * as tus from 'tus-js-client'
import { bytes } from '../parts/words'

const CHUNK_BYTES = 4_000_000

/** One file on its way to the server; goes on where it stopped, also after the page was closed. */
export class Upload {
  sent = $state(0)
  failure = $state('')
  canRetry = $state(false)
  rate = $state('')
  readonly share = $derived.by(() => (this.file.size ? this.sent / this.file.size : 0))
  #upload: tus.Upload
  #since = 0
  #from = 0

  constructor(
    readonly file: File,
    metadata: { student: string; filmed_on: string },
    done: () => void,
  ) {
    this.#upload = new tus.Upload(file, {
      endpoint: '/api/uploads/',
      chunkSize: CHUNK_BYTES,
      retryDelays: [0, 500, 1500, 4000, 8000],
      // The server's library wants a file type to tell where an upload stopped.
      metadata: { filename: file.name, filetype: file.type || 'application/octet-stream', ...metadata },
      removeFingerprintOnSuccess: true,
      onProgress: (sent) => this.#progress(sent),
      onError: (error) => this.#fail(error),
      onSuccess: done,
    })
  }

  start(): void {
    this.failure = ''
    this.#since = 0
    if (this.file.size === 0) return this.#refuse(`“${this.file.name}” is empty; send the original file from the phone again`)
    void this.#upload.findPreviousUploads().then((earlier) => {
      const last = earlier.at(-1)
      if (last) this.#upload.resumeFromPreviousUpload(last)
      this.#upload.start()
    })
  }

  cancel(): void {
    void this.#upload.abort(true).catch(() => undefined)
  }

  #progress(sent: number): void {
    const now = performance.now()
    if (!this.#since) [this.#since, this.#from] = [now, sent]
    const perSecond = ((sent - this.#from) / Math.max(now - this.#since, 1)) * 1000
    const left = perSecond > 0 ? (this.file.size - sent) / perSecond : 0
    this.sent = sent
    this.rate = perSecond > 0 ? `${bytes(perSecond)}/s, ${Math.ceil(left)} s left` : ''
  }

  #refuse(message: string): void {
    this.failure = message
    this.canRetry = false
  }

  #fail(error: Error | tus.DetailedError): void {
    const response = 'originalResponse' in error ? error.originalResponse : null
    let words = 'The connection broke off. What was sent is kept.'
    try {
      words = (JSON.parse(response?.getBody() ?? '') as { message?: string }).message ?? words
    } catch {
      // The answer was none of ours: the connection is to blame.
    }
    this.failure = words
    this.canRetry = !response || response.getStatus() >= 500
  }
}
