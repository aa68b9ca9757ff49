import { describe, expect, it } from 'vitest'
import type { Clip } from '../api/client'
import { clipFacts, clipFlaws } from './facts'
import { completed, groups, neighbour, timeLeft } from './list'

const BASE = {
  id: 'a',
  student_id: 's',
  student: 'Marit',
  name: 'kick.mp4',
  line: 'Marit, Front kick',
  suggested: '',
  review: 'none',
  state: 'ready',
  has_film: true,
  width: 1920,
  height: 1080,
  frames_done: 300,
  frames_expected: 300,
  nominal_fps: 59.94,
  variable_rate: true,
  duration_s: 5.004,
  capture_rate: [{ frame: 0, rate: 1 }],
  has_sound: true,
  mirrored: false,
  dropped_frames: 0,
  repeated_frames: 0,
  sound_broke_off: false,
  camera: { still: true, residual_px: 0.1, lost: [] },
  reading_since: null,
  naming: {},
} as unknown as Clip
const clip = (changes: Partial<Clip>): Clip => ({ ...BASE, ...changes })

describe('the list of clips', () => {
  it('has what is to be named first, then what waits, then what is reviewed', () => {
    const all = [
      clip({ id: 'done', review: 'finished', line: 'Marit' }),
      clip({ id: 'nobody', student_id: null, student: null, line: '' }),
      clip({ id: 'only who', line: 'Marit' }),
      clip({ id: 'named' }),
      clip({ id: 'begun', review: 'open', line: 'Marit' }),
    ]
    expect(groups(all).map((group) => [group.title, group.clips.map(({ id }) => id)])).toEqual([
      ['To be named', ['nobody', 'only who']],
      ['Waiting for you', ['named', 'begun']],
      ['Reviewed', ['done']],
    ])
    expect(groups([])).toEqual([])
  })

  it('is walked from either end and no further', () => {
    const order = [clip({ id: '1' }), clip({ id: '2' }), clip({ id: '3' })]
    const at = (id: string | null, by: 1 | -1) => neighbour(order, id, by)?.id
    expect([at(null, 1), at(null, -1), at('1', 1), at('1', -1), at('3', 1), at('gone', 1)]).toEqual([
      '1',
      '3',
      '2',
      '1',
      '3',
      '1',
    ])
    expect(neighbour([], null, 1)).toBeUndefined()
  })

  it.each([
    ['', 'Marit Solbakke', 'Marit Solbakke, '],
    ['mar', 'Marit Solbakke', 'Marit Solbakke, '],
    ['Marit,  fro', 'Front kick', 'Marit, Front kick, '],
    ['Marit, Front kick, ', 'left', 'Marit, Front kick, left, '],
  ])('completes “%s” with %s', (line, completion, wanted) => expect(completed(line, completion)).toBe(wanted))

  it('tells how long reading still takes from how fast it went', () => {
    const now = Date.parse('2026-05-04T10:00:10Z')
    const reading = {
      state: 'reading',
      reading_since: '2026-05-04T10:00:00Z',
      frames_done: 100,
      frames_expected: 300,
    } as const
    expect(timeLeft(clip(reading), now)).toBeCloseTo(20)
    expect(timeLeft(clip({ ...reading, frames_done: 0 }), now)).toBeNull()
    expect(timeLeft(clip({ ...reading, frames_expected: null }), now)).toBeNull()
    expect(timeLeft(clip({}), now)).toBeNull()
  })
})

describe('what is said of a clip', () => {
  it('is its facts in one line', () => {
    expect(clipFacts(clip({}))).toBe('1920×1080 · 300 frames · 59.9 fps, variable · 5.0 s · sound')
    expect(
      clipFacts(
        clip({ capture_rate: [{ frame: 0, rate: 8 }], mirrored: true, has_sound: false, variable_rate: false }),
      ),
    ).toBe('1920×1080 · 300 frames · 59.9 fps · 5.0 s · 8× slowed · mirrored by the phone')
    expect(clipFacts(clip({ has_film: false }))).toContain('measures only, film not kept')
  })

  it('is what limits it, each with its number', () => {
    expect(clipFlaws(clip({}))).toEqual([])
    const flaws = clipFlaws(
      clip({
        dropped_frames: 1,
        repeated_frames: 4,
        sound_broke_off: true,
        camera: { still: false, residual_px: 0.71, lost: [{ first: 3, last: 9 }] },
      }),
    )
    expect(flaws).toHaveLength(4)
    expect(flaws[0]).toMatch(/^1 gap in the clock/)
    expect(flaws[1]).toMatch(/^4 frames shown twice/)
    expect(flaws[3]).toContain('lost at frames 3–9')
    expect(clipFlaws(clip({ camera: { still: false, residual_px: 0.71, lost: [] } }))[0]).toContain('±0.7 px')
  })
})
