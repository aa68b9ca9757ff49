import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Bench } from './bench.svelte'
import { changedVerdicts } from './changed'
import type { Left } from './guide.svelte'
import { checkpoint, clip, judgement, rep, review, technique } from './making'
import type { Review } from '../../api/client'

const left = (change: Partial<Left> & Pick<Left, 'kind'>): Left => ({
  words: 'words',
  checkpoint: null,
  event: null,
  frame: null,
  body: null,
  landmark: null,
  count: null,
  ...change,
})
const proposal = (event: string, frame: number) => ({ event, frame, why: 'as in rep 1' })

// A browser that keeps nothing, and a server that never answers: what is sent stays in sight.
const nowhere = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined }
beforeEach(() => {
  vi.stubGlobal('localStorage', nowhere)
  vi.stubGlobal('sessionStorage', nowhere)
  vi.stubGlobal('fetch', () => new Promise(() => undefined))
})
afterEach(() => vi.unstubAllGlobals())

function open(change: Partial<Review>) {
  const bench = new Bench(clip(200), review(change), [technique()], () => undefined, 'coach')
  bench.player.attachNothing(bench.clip.pts_s, bench.clip.real_s)
  bench.choose(bench.review.reps[0]?.id ?? null)
  return bench
}
const sent = (bench: Bench) => bench.saver.waiting.map((one) => one.method + ' ' + one.path)

describe('the line that leads', () => {
  it('accepts the proposed cuts, and goes to the first of them', () => {
    const bench = open({
      proposals: [
        { first: 30, last: 60 },
        { first: 90, last: 120 },
      ],
    })
    expect(bench.guide.step?.what).toBe('2 cuts are proposed')
    bench.guide.enter()
    expect(sent(bench).filter((one) => one.includes('/reps/'))).toHaveLength(2)
    expect(bench.player.wanted).toBe(30)
  })

  it('cuts a rep in two acts where nothing is proposed', () => {
    const bench = open({})
    bench.player.go(12)
    bench.guide.enter()
    bench.player.go(44)
    bench.guide.enter()
    expect(sent(bench)).toHaveLength(1)
    expect(bench.repId).not.toBeNull()
  })

  it('goes to where an event seems to be, and marks it where the coach stands', () => {
    const bench = open({
      reps: [rep('a', { left: [left({ kind: 'event', event: 'knee_top' })], proposed: [proposal('knee_top', 40)] })],
    })
    expect(bench.guide.step?.enter?.does).toContain('go to frame 40')
    bench.guide.enter()
    expect(bench.player.wanted).toBe(40)
    bench.player.go(41)
    bench.guide.enter()
    expect(bench.saver.waiting.at(-1)).toMatchObject({ path: '/reps/a/events/knee_top', body: { frames: [41] } })
  })

  it.each(['seed', 'poor'] as const)('goes where one point is missing, and asks for that one alone (%s)', (kind) => {
    const ask = { body: 'partner', landmark: 'left_hip', frame: 47, count: 1 } as const
    const bench = open({ reps: [rep('a', { left: [left({ kind, ...ask })] })] })
    expect(bench.guide.step?.what).toBe('Place the partner’s left hip in frame 47')
    bench.guide.enter()
    expect(bench.tool).toBe('points')
    expect(bench.player.wanted).toBe(47)
    expect(bench.points.asked).toMatchObject({ body: 'partner', landmark: 'left_hip' })
    const spot = { body: 'partner', landmark: 'left_hip', frame: 47 } as const
    bench.points.place(spot, { x: 4, y: 5 })
    expect(bench.saver.waiting.at(-1)).toMatchObject({ body: { x: 4, y: 5 } })
    expect(bench.tool).toBe('look')
  })

  it('marks where the coach has gone himself, whatever is proposed', () => {
    const bench = open({
      reps: [rep('a', { left: [left({ kind: 'event', event: 'knee_top' })], proposed: [proposal('knee_top', 40)] })],
    })
    bench.player.go(33)
    bench.guide.enter()
    expect(bench.saver.waiting.at(-1)).toMatchObject({ body: { frames: [33] } })
  })

  it('marks nothing while the coach has not moved and nothing is proposed', () => {
    const events = ['knee_top', 'full_reach'].map((event) => left({ kind: 'event', event }))
    const bench = open({ reps: [rep('a', { left: events })] })
    bench.guide.enter()
    expect(bench.saver.waiting).toEqual([])
    bench.player.go(35)
    bench.guide.enter()
    // The next event does not lie where this one does.
    bench.review = { ...bench.review, reps: [rep('a', { left: events.slice(1), events: { knee_top: [35] } })] }
    bench.guide.enter()
    expect(bench.saver.waiting).toHaveLength(1)
  })

  it('shows where the next event seems to be as one is marked', () => {
    const events = ['knee_top', 'full_reach'].map((event) => left({ kind: 'event', event }))
    const bench = open({
      reps: [rep('a', { left: events, proposed: [proposal('knee_top', 40), proposal('full_reach', 52)] })],
    })
    bench.guide.enter()
    bench.guide.enter()
    expect(bench.player.wanted).toBe(52)
  })

  it('goes to a question, and leaves the answer to the coach', () => {
    const bench = open({ reps: [rep('a', { left: [left({ kind: 'answer', checkpoint: 'toes_back' })] })] })
    if (bench.checkpointId !== 'toes_back') bench.guide.enter()
    bench.checkpointId = 'toes_back'
    expect(bench.guide.step?.enter).toBeUndefined()
    expect(bench.guide.step?.others?.map((one) => one.key)).toEqual(['Y', 'N'])
  })

  it('leaves what is put off, goes on to the next rep, and ends with the list of what is left', () => {
    const bench = open({
      reps: [
        rep('a', { left: [left({ kind: 'height', body: 'performer' })] }),
        rep('b', { first_frame: 100, last_frame: 150, left: [left({ kind: 'answer', checkpoint: 'toes_back' })] }),
      ],
    })
    expect(bench.guide.step?.what).toContain('height')
    bench.guide.step?.skip?.()
    expect(bench.guide.step?.enter?.does).toBe('go to rep 2')
    bench.guide.enter()
    expect(bench.repId).toBe('b')
    bench.guide.step?.skip?.()
    bench.guide.enter()
    expect(bench.finishAsked).toBe(true)
  })

  it('offers the heights that are known from elsewhere', () => {
    const bench = open({
      heights_offered: [{ body: 'performer', px: 312, words: '312 pixels, as in the clip of 3 May' }],
      reps: [rep('a', { left: [left({ kind: 'height', body: 'performer' })] })],
    })
    bench.guide.step?.others?.[0]?.run()
    expect(bench.saver.waiting.at(-1)).toMatchObject({ body: { px: 312 } })
  })

  it('draws the correction of what is fixed first once all is marked', () => {
    const missed = judgement('thigh_lifted', { verdict: 'missed', counts_as_missed: true })
    const bench = open({
      techniques: [technique({ checkpoints: [checkpoint('thigh_lifted')] })],
      reps: [rep('a', { judgements: [missed] })],
      fix_first: [
        { technique: 'front-kick', checkpoint: 'thigh_lifted', fault: 'low', reason: 'missed', why: null } as never,
      ],
    })
    expect(bench.guide.step?.what).toBe('Draw the correction')
  })

  it('says that somebody who looks on, or a finished review, has nothing to do', () => {
    const bench = open({ reps: [rep('a')], finished_at: '2026-05-04T10:00:00Z' })
    expect(bench.guide.step).toBeNull()
  })
})

describe('points by keys', () => {
  it('are placed where the cross was steered to, from where the landmark lies nearby', () => {
    const needs = [{ checkpoint: 'thigh_lifted', body: 'performer' as const, landmark: 'right_hip', frame: 50 }]
    const bench = open({
      techniques: [technique({ checkpoints: [checkpoint('thigh_lifted')] })],
      reps: [rep('a', { needs })],
    })
    bench.checkpointId = 'thigh_lifted'
    bench.tool = 'points'
    bench.player.go(50)
    bench.guide.enter()
    const begun = bench.points.cross
    expect(begun).not.toBeNull()
    bench.points.nudge(1, 0)
    bench.guide.enter()
    expect(bench.saver.waiting.at(-1)).toMatchObject({ path: '/reps/a/points/performer/right_hip/50' })
    expect((bench.saver.waiting.at(-1)?.body as { x: number }).x).toBeGreaterThan(begun?.x ?? Infinity)
  })
})

describe('changed verdicts', () => {
  it('are those of reps in both that are not as they were', () => {
    const before = { reps: [rep('a', { judgements: [judgement('x', { verdict: 'met' }), judgement('y')] })] }
    const now = { reps: [rep('a', { judgements: [judgement('x', { verdict: 'missed' }), judgement('y')] }), rep('b')] }
    expect(changedVerdicts(before, now)).toEqual([{ rep: 'a', checkpoint: 'x', before: 'met', now: 'missed' }])
  })
})
