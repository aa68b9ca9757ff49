import { bytes, seconds } from '../parts/words'
import { unfinished, Upload, type Unfinished } from './upload.svelte'

/** More at once would share the same Wi-Fi, and break off together. */
const AT_ONCE = 3

/** A chosen file with the folders it lay in. */
export interface Chosen {
  file: File
  folder: string
}

/** The files on their way, a few at a time, in the order they were chosen. */
export class Uploads {
  list = $state<Upload[]>([])
  earlier = $state<Unfinished[]>([])
  readonly busy = $derived.by(() => this.list.some(({ state }) => state === 'queued' || state === 'sending'))
  /** All of them in one line: how many are sent, how fast, how long still. */
  readonly summary = $derived.by(() => {
    const open = this.list.filter(({ state }) => state === 'queued' || state === 'sending')
    const rate = open.reduce((sum, upload) => sum + upload.perSecond, 0)
    const left = open.reduce((sum, upload) => sum + upload.file.size - upload.sent, 0)
    const words = `${open.length} ${open.length === 1 ? 'file' : 'files'} to send, ${bytes(left)} left`
    return rate > 0 ? `${words} · ${bytes(rate)}/s · ${seconds(Math.ceil(left / rate))}` : words
  })

  constructor(private readonly arrived: () => void) {
    void this.#look()
  }

  add(chosen: readonly Chosen[], student: string): void {
    for (const { file, folder } of chosen) {
      const upload = new Upload(
        file,
        { student, filmed_on: new Date(file.lastModified).toLocaleDateString('sv'), folder },
        () => this.#ended(),
      )
      this.list.push(upload)
    }
    this.#next()
  }

  again(upload: Upload): void {
    upload.state = 'queued'
    upload.failure = ''
    this.#next()
  }

  /** Take one off the page; what was sent of it is deleted unless it is done. */
  drop(upload: Upload): void {
    if (upload.state === 'sending' || upload.canRetry) upload.cancel()
    this.list = this.list.filter((other) => other !== upload)
    this.#next()
  }

  async forget(earlier: Unfinished): Promise<void> {
    await unfinished.forget(earlier.key)
    await this.#look()
  }

  #ended(): void {
    if (this.list.some(({ state }) => state === 'done')) {
      this.list = this.list.filter(({ state }) => state !== 'done')
      this.arrived()
    }
    this.#next()
    void this.#look()
  }

  #next(): void {
    const sending = this.list.filter(({ state }) => state === 'sending').length
    this.list
      .filter(({ state }) => state === 'queued')
      .slice(0, Math.max(AT_ONCE - sending, 0))
      .forEach((upload) => upload.start())
  }

  async #look(): Promise<void> {
    const here = (found: Unfinished) =>
      this.list.some(({ file }) => file.name === found.name && file.size === found.size)
    this.earlier = (await unfinished.list()).filter((found) => !here(found))
  }
}

/** Chosen files with their folders, as the browser's dialog tells them. */
export function chosenFiles(files: FileList | null): Chosen[] {
  return [...(files ?? [])].map((file) => ({ file, folder: file.webkitRelativePath.split('/').slice(0, -1).join('/') }))
}

/** Dropped files, those in dropped folders too. Hidden files are left out. */
export async function droppedFiles(data: DataTransfer | null): Promise<Chosen[]> {
  // The entries must be asked for before the first wait, or the browser has forgotten them.
  const entries = [...(data?.items ?? [])].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null)
  // What is dragged out of another page comes as bare files.
  if (entries.length === 0) return chosenFiles(data?.files ?? null)
  const found = await Promise.all(entries.map((entry) => filesOf(entry)))
  return found.flat().filter(({ file }) => !file.name.startsWith('.'))
}

async function filesOf(entry: FileSystemEntry): Promise<Chosen[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail))
    return [{ file, folder: entry.fullPath.split('/').slice(1, -1).join('/') }]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const found: Chosen[] = []
  for (;;) {
    // A folder is told in portions of 100; an empty one is the end.
    const portion = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail))
    if (portion.length === 0) return found
    for (const inner of portion) found.push(...(await filesOf(inner)))
  }
}
