import * as tus from 'tus-js-client'
import { bytes, seconds } from '../parts/words'
import { tell } from '../parts/told'

/** The server could not be asked to delete the part that it has. */
function leftBehind(): void {
  tell('Upload cancelled', 'The server could not be reached. It deletes the part that it has within a week.')
}

const CHUNK_BYTES = 4_000_000
/** The rate shown is that of the last few seconds, so that it follows the Wi-Fi. */
const RATE_OVER_MS = 5000

/** Refusals that pass: somebody else was sending the same file, or the connection was too slow. */
const PASSING = ['held', 'too_slow']

/** What the server is told of a file. */
export interface Said {
  student: string
  filmed_on: string
  folder: string
}

export type UploadState = 'queued' | 'sending' | 'failed' | 'done'

/** One file on its way to the server; goes on where it stopped, also after the page was closed. */
export class Upload {
  sent = $state(0)
  state = $state<UploadState>('queued')
  failure = $state('')
  /** The file is here already; nothing went wrong. */
  known = $state(false)
  canRetry = $state(false)
  /** Bytes a second of late; 0 while unknown. */
  perSecond = $state(0)
  readonly share = $derived.by(() => (this.file.size ? this.sent / this.file.size : 0))
  readonly progress = $derived.by(() => {
    const left =
      this.perSecond > 0
        ? ` · ${bytes(this.perSecond)}/s · ${seconds(Math.ceil((this.file.size - this.sent) / this.perSecond))} left`
        : ''
    return `${bytes(this.sent)} of ${bytes(this.file.size)}${left}`
  })
  #upload: tus.Upload
  #marks: { at: number; sent: number }[] = []

  constructor(
    readonly file: File,
    said: Said,
    private readonly ended: () => void,
  ) {
    this.#upload = new tus.Upload(file, {
      endpoint: '/api/uploads/',
      chunkSize: CHUNK_BYTES,
      retryDelays: [0, 500, 1500, 4000, 8000],
      metadata: { filename: file.name, ...said },
      removeFingerprintOnSuccess: true,
      onProgress: (sent) => this.#progress(sent),
      onError: (error) => this.#fail(error),
      onSuccess: () => {
        this.state = 'done'
        this.ended()
      },
    })
  }

  start(): void {
    this.failure = ''
    this.#marks = []
    this.state = 'sending'
    if (this.file.size === 0)
      return this.#refuse(`“${this.file.name}” is empty; send the original file from the phone again`)
    void this.#upload.findPreviousUploads().then((earlier) => {
      const last = earlier.at(-1)
      if (last) this.#upload.resumeFromPreviousUpload(last)
      this.#upload.start()
    })
  }

  cancel(): void {
    void this.#upload.abort(true).catch(leftBehind)
    void this.#forget()
  }

  #progress(sent: number): void {
    const now = performance.now()
    this.#marks = [...this.#marks.filter((mark) => now - mark.at < RATE_OVER_MS), { at: now, sent }]
    const first = this.#marks[0]
    if (first && now - first.at > 200) this.perSecond = ((sent - first.sent) / (now - first.at)) * 1000
    this.sent = sent
  }

  #refuse(message: string): void {
    this.failure = message
    this.canRetry = false
    this.state = 'failed'
    this.ended()
  }

  #fail(error: Error | tus.DetailedError): void {
    const response = 'originalResponse' in error ? error.originalResponse : null
    let words = 'The connection was lost. What was uploaded is kept.'
    let code = ''
    try {
      const told = JSON.parse(response?.getBody() ?? '') as { message?: string; code?: string }
      words = told.message ?? words
      code = told.code ?? ''
    } catch {
      // The answer was none of ours: the connection is to blame.
    }
    this.known = code === 'here_already'
    this.canRetry = !response || response.getStatus() >= 500 || PASSING.includes(code)
    this.failure = words
    this.state = 'failed'
    // The server keeps nothing of what it refused.
    if (!this.canRetry) void this.#forget()
    this.ended()
  }

  async #forget(): Promise<void> {
    for (const earlier of await this.#upload.findPreviousUploads()) await unfinished.remove(earlier.urlStorageKey)
  }
}

/** An upload that was begun in this browser, not ended, and is not on this page: choosing its file again goes
 * on with it. */
export interface Unfinished {
  key: string
  name: string
  size: number
  begun: string
}

const storage = tus.defaultOptions.urlStorage

export const unfinished = {
  async list(): Promise<Unfinished[]> {
    const found = (await storage?.findAllUploads()) ?? []
    return found.map(({ urlStorageKey, metadata, size, creationTime }) => ({
      key: urlStorageKey,
      name: metadata.filename ?? 'a file',
      size: size ?? 0,
      begun: creationTime,
    }))
  },
  async remove(key: string): Promise<void> {
    await storage?.removeUpload(key)
  },
  /** Forget one here, and let the server delete what it has of it. */
  async forget(key: string): Promise<void> {
    const found = (await storage?.findAllUploads())?.find((entry) => entry.urlStorageKey === key)
    if (found?.uploadUrl)
      await tus.Upload.terminate(found.uploadUrl, { ...tus.defaultOptions, retryDelays: [] }).catch(leftBehind)
    await this.remove(key)
  },
}
