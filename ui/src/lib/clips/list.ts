import type { Clip } from '../api/client'

export interface Group {
  title: string
  hint: string
  clips: Clip[]
}

/** The clips as a coach works through them: first those to be named, then those to be reviewed, then the reviewed. */
export function groups(clips: readonly Clip[]): Group[] {
  const unnamed = (clip: Clip) => clip.review === 'none' && (clip.student_id == null || clip.line === clip.student)
  const named = clips.filter((clip) => !unnamed(clip))
  return [
    {
      title: 'To be named',
      hint: 'Say who and what in one line; select several to name them together.',
      clips: clips.filter(unnamed),
    },
    { title: 'Waiting for you', hint: '', clips: named.filter((clip) => clip.review !== 'finished') },
    { title: 'Reviewed', hint: '', clips: named.filter((clip) => clip.review === 'finished') },
  ].filter((group) => group.clips.length > 0)
}

/** The clip before or after one in the order shown; the first or last where there is none. */
export function neighbour(order: readonly Clip[], id: string | null, by: 1 | -1): Clip | undefined {
  const at = order.findIndex((clip) => clip.id === id)
  if (at < 0) return by > 0 ? order[0] : order.at(-1)
  return order[Math.min(Math.max(at + by, 0), order.length - 1)]
}

/** A line with its last part replaced by a completion, ready for the next part. */
export function completed(line: string, completion: string): string {
  const before = line
    .split(',')
    .slice(0, -1)
    .map((part) => part.trim())
    .filter(Boolean)
  return `${[...before, completion].join(', ')}, `
}

/** How long the reading of a clip will still take, from how fast it went; nothing while it cannot be told. */
export function timeLeft(clip: Clip, now: number): number | null {
  if (clip.state !== 'reading' || !clip.reading_since || !clip.frames_expected || clip.frames_done === 0) return null
  const spent = (now - Date.parse(clip.reading_since)) / 1000
  return Math.max(0, (spent / clip.frames_done) * (clip.frames_expected - clip.frames_done))
}
