import { Input, MP4, UrlSource, VideoSampleSink } from 'mediabunny'

/** What a page asks of the decoder, and what it is told; a stretch is named by a number. */
export type Asked = { open: string; lines: number } | { stretch: number; from: number; to: number } | { stop: number }
export type Told =
  | { ready: { width: number; height: number } | null }
  | { stretch: number; timestamp: number; picture: ImageBitmap }
  | { done: number }
  | { failed: number }

/** The worker itself, as this file sees it. */
declare const self: {
  onmessage: (event: MessageEvent<Asked>) => void
  postMessage(told: Told, transfer?: Transferable[]): void
}
let sink: VideoSampleSink | null = null
let canvas: OffscreenCanvas | null = null
const stopped = new Set<number>()

self.onmessage = ({ data }) => {
  if ('open' in data) void open(data.open, data.lines)
  else if ('stop' in data) stopped.add(data.stop)
  else void decode(data.stretch, data.from, data.to)
}

async function open(url: string, lines: number): Promise<void> {
  try {
    const track = await new Input({ source: new UrlSource(url), formats: [MP4] }).getPrimaryVideoTrack()
    if (!track || !(await track.canDecode())) return self.postMessage({ ready: null })
    const [wide, high] = [await track.getDisplayWidth(), await track.getDisplayHeight()]
    const share = Math.min(1, lines / Math.min(wide, high))
    canvas = new OffscreenCanvas(Math.round(wide * share), Math.round(high * share))
    sink = new VideoSampleSink(track)
    self.postMessage({ ready: { width: canvas.width, height: canvas.height } })
  } catch {
    self.postMessage({ ready: null })
  }
}

async function decode(stretch: number, from: number, to: number): Promise<void> {
  const pen = canvas?.getContext('2d')
  try {
    if (!sink || !canvas || !pen) throw new Error('no film is open')
    for await (const sample of sink.samples(from, to)) {
      if (stopped.has(stretch)) {
        sample.close()
        break
      }
      sample.draw(pen, 0, 0, canvas.width, canvas.height)
      const { timestamp } = sample
      sample.close()
      const picture = canvas.transferToImageBitmap()
      self.postMessage({ stretch, timestamp, picture }, [picture])
    }
    self.postMessage({ done: stretch })
  } catch {
    self.postMessage({ failed: stretch })
  } finally {
    stopped.delete(stretch)
  }
}
