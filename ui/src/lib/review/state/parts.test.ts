import { describe, expect, it } from 'vitest'
import type { RepForm, Schemas } from '../../api/client'
import { BlindRemarking } from './blind.svelte'
import { Cutting, firstDraft } from './cutting.svelte'
import { Fixes } from './fixes.svelte'
import { History } from './history.svelte'
import { TestDesk, checkpoint, clip, job, judgement, point, rep, review, technique } from './making'
import { Marking } from './marking.svelte'
import { OverMat } from './mat.svelte'
import { Points } from './points.svelte'
import { Reference } from './reference.svelte'
import { SpaceFigures } from './space.svelte'
import { StrandView } from './strand.svelte'
import { Tracking } from './tracking.svelte'

const need = (landmark: string, frame: number | null, of = 'thigh_lifted') => ({
  checkpoint: of,
  body: 'performer' as const,
  landmark,
  frame,
})

describe('history', () => {
  const act = (name: string) => ({
    label: name,
    forward: [{ method: 'PUT' as const, path: name }],
    backward: [{ method: 'DELETE' as const, path: name }],
  })
  it('takes an act back as of when it was done, so that what others changed since is asked about', () => {
    const desk = new TestDesk()
    const history = new History(desk)
    desk.review = review({ revision: 4 })
    history.act(act('a'))
    desk.review = review({ revision: 9 })
    history.undo()
    desk.review = review({ revision: 12 })
    history.redo()
    expect(desk.seen).toEqual([4, 4, 9])
  })
  it('takes back the last act first and does it again', () => {
    const desk = new TestDesk()
    const history = new History(desk)
    history.act(act('a'))
    history.act(act('b'))
    history.undo()
    history.undo()
    history.undo()
    expect(history.canUndo).toBe(false)
    history.redo()
    expect(desk.sent.map((one) => one.method + one.path)).toEqual(['PUTa', 'PUTb', 'DELETEb', 'DELETEa', 'PUTa'])
    expect(history.canRedo).toBe(true)
  })
  it('forgets what was taken back once something else is done', () => {
    const history = new History(new TestDesk())
    history.act(act('a'))
    history.undo()
    history.act(act('b'))
    expect(history.canRedo).toBe(false)
  })
  it('changes nothing of a finished review', () => {
    const desk = new TestDesk()
    const history = new History(desk)
    history.act(act('a'))
    desk.finished = true
    history.act(act('b'))
    history.undo()
    expect(desk.sent).toHaveLength(1)
    expect(history.canUndo).toBe(true)
  })
})

describe('the strand', () => {
  it('shows the rep with a margin, or the whole clip', () => {
    const desk = new TestDesk()
    expect(new StrandView(desk).shown).toEqual({ from: 4, to: 96 })
    desk.repId = null
    expect(new StrandView(desk).shown).toEqual({ from: 0, to: 199 })
  })
  it('zooms about the frame on screen and stays within the clip', () => {
    const desk = new TestDesk()
    const strand = new StrandView(desk)
    strand.zoom(0.5)
    expect(strand.shown).toEqual({ from: 22, to: 68 })
    strand.zoom(100)
    expect(strand.shown).toEqual({ from: 0, to: 199 })
    strand.zoom(0.0001)
    expect(strand.shown.to - strand.shown.from).toBe(8)
  })
  it('brings the frame on screen into view, and leaves what is in view', () => {
    const desk = new TestDesk()
    const strand = new StrandView(desk)
    strand.span = { from: 0, to: 20 }
    strand.follow()
    expect(strand.shown).toEqual({ from: 30, to: 50 })
    desk.player.shown = 45
    strand.follow()
    expect(strand.shown).toEqual({ from: 30, to: 50 })
  })
  it('jumps from mark to mark: events, sounds, ends of reps and of proposed cuts', () => {
    const desk = new TestDesk([rep('rep', { events: { knee_top: [41] } })], { proposals: [{ first: 120, last: 160 }] })
    const strand = new StrandView(desk)
    strand.traces = {
      step_s: 0.01,
      motion: [],
      sound: [],
      onsets: [{ time_s: 1.5, strength: 1, voiced: false }],
      dropped: [],
      repeated: [],
    } as never
    const way = [41, 45, 90, 120, 160]
    for (const [at, next] of [40, ...way].slice(0, -1).map((frame, i) => [frame, way[i]] as const)) {
      desk.player.wanted = at
      strand.jump(1)
      expect(desk.player.went.at(-1)).toBe(next)
    }
    desk.player.wanted = 41
    strand.jump(-1)
    expect(desk.player.went.at(-1)).toBe(10)
    desk.player.wanted = 160
    strand.jump(1)
    expect(desk.player.went).toHaveLength(6)
  })
})

describe('cutting', () => {
  const cuts = [
    { first: 5, last: 20 },
    { first: 50, last: 70 },
    { first: 100, last: 120 },
  ]
  const cutting = (desk: TestDesk) => new Cutting(desk, [technique()])
  it('takes the proposed cut under the frame, else the next, else the last', () => {
    const desk = new TestDesk([], { proposals: cuts })
    const own = cutting(desk)
    expect([15, 40, 60, 150].map((at) => ((desk.player.shown = at), own.here))).toEqual([0, 1, 1, 2])
  })
  it('accepts one, which becomes the current rep, or all', () => {
    const desk = new TestDesk([], { proposals: cuts })
    cutting(desk).accept()
    expect(desk.sent.map((one) => one.method)).toEqual(['PUT', 'PUT'])
    expect(desk.sent[0]?.body).toMatchObject({ first_frame: 50, last_frame: 70, technique: 'front-kick' })
    expect(desk.sent[1]?.body).toEqual({ cuts: [cuts[0], cuts[2]] })
    expect(desk.chosen).toHaveLength(1)
    cutting(desk).acceptAll()
    expect(desk.sent).toHaveLength(6)
    expect(desk.sent.at(-1)?.body).toEqual({ cuts: [] })
    expect(desk.chosen).toHaveLength(2)
  })
  it('drops and moves a proposal, and shows a dragged one where it is dragged to', () => {
    const desk = new TestDesk([], { proposals: cuts })
    const own = cutting(desk)
    own.drop(0)
    expect(desk.sent.at(-1)?.body).toEqual({ cuts: cuts.slice(1) })
    own.move(2, { first: 101, last: 119 })
    expect(desk.sent.at(-1)?.body).toEqual({ cuts: [cuts[0], cuts[1], { first: 101, last: 119 }] })
    own.dragged = { index: 1, cut: { first: 51, last: 69 } }
    expect(own.proposals[1]).toEqual({ first: 51, last: 69 })
  })
  it('does nothing where nothing is proposed', () => {
    const desk = new TestDesk([], { proposals: [] })
    const own = cutting(desk)
    own.accept()
    own.acceptAll()
    own.drop()
    expect(desk.sent).toEqual([])
  })
  it('sets an end of the current rep where that is possible', () => {
    const desk = new TestDesk()
    cutting(desk).setEdge('first_frame')
    expect(desk.sent[0]?.body).toMatchObject({ first_frame: 40, last_frame: 90 })
    desk.player.shown = 95
    cutting(desk).setEdge('first_frame')
    expect(desk.sent).toHaveLength(1)
  })
  it('cuts a new rep once both ends are set', () => {
    const desk = new TestDesk([])
    const own = cutting(desk)
    own.setEdge('first_frame')
    expect(desk.sent).toEqual([])
    desk.player.shown = 60
    own.setEdge('last_frame')
    expect(desk.sent[0]?.body).toMatchObject({ first_frame: 40, last_frame: 60 })
    expect(desk.chosen).toHaveLength(1)
  })
  it('describes the current rep, or the next one', () => {
    const desk = new TestDesk()
    cutting(desk).describe({ side: 'left' })
    expect(desk.sent[0]?.body).toMatchObject({ side: 'left', first_frame: 10 })
    desk.repId = null
    const own = cutting(desk)
    own.describe({ pace: 'slow' })
    expect(own.draft.pace).toBe('slow')
    own.begin()
    expect([own.draft.first_frame, own.draft.last_frame]).toEqual([-1, -1])
  })
  it('cuts like the last rep, else as the clip is named, else a plain attempt', () => {
    const named = clip(9, {
      naming: { options: { extension: 'push' }, question: '', technique: 'side-kick', side: 'left', rung: 'solo' },
    })
    expect(firstDraft(named, review(), [technique()])).toMatchObject({
      technique: 'side-kick',
      side: 'left',
      rung: 'solo',
      options: { extension: 'push' },
      first_frame: -1,
    })
    expect(
      firstDraft(named, review({ reps: [rep('a', { side: 'right', pace: 'slow' })] }), [technique()]),
    ).toMatchObject({ technique: 'front-kick', side: 'right', pace: 'slow', first_frame: -1 })
    expect(firstDraft(clip(), review(), [technique()])).toMatchObject({
      technique: 'front-kick',
      side: 'right',
      purpose: 'attempt',
    })
  })
  it('counts no rep that is marked a second time', () => {
    const desk = new TestDesk([rep('a'), rep('b', { blind_of: 'a' })])
    expect(cutting(desk).reps.map((one) => one.id)).toEqual(['a'])
  })
})

describe('marking', () => {
  it('marks an event at the frame on screen; there again takes it away', () => {
    const desk = new TestDesk()
    new Marking(desk).mark('knee_top')
    expect(desk.sent[0]).toMatchObject({ method: 'PUT', body: { frames: [40] } })
    desk.review = review({ reps: [rep('rep', { events: { knee_top: [40] } })] })
    new Marking(desk).mark('knee_top')
    expect(desk.sent[1]?.method).toBe('DELETE')
  })
  it('says that an event did not happen, and takes that back', () => {
    const desk = new TestDesk()
    new Marking(desk).didNotHappen('knee_top')
    expect(desk.sent[0]?.body).toEqual({ frames: [] })
    desk.review = review({ reps: [rep('rep', { events: { knee_top: [] } })] })
    new Marking(desk).didNotHappen('knee_top')
    expect(desk.sent[1]?.method).toBe('DELETE')
  })
  it('proposes the next event that is not marked, and accepts it at its frame', () => {
    const desk = new TestDesk([
      rep('rep', {
        events: { knee_top: [30] },
        proposed: [
          { event: 'foot_off', frame: 12, why: '' },
          { event: 'full_reach', frame: 44, why: '' },
        ],
      }),
    ])
    const marking = new Marking(desk)
    expect(marking.nextEvent).toBe('full_reach')
    marking.acceptProposed()
    expect(desk.player.went).toEqual([44])
    expect(desk.sent[0]).toMatchObject({ path: '/reps/rep/events/full_reach', body: { frames: [44] } })
  })
  it('marks what may come several times beside its other markings', () => {
    const desk = new TestDesk([rep('rep', { events: { knee_top: [50] } })])
    desk.player.shown = 20
    new Marking(desk).markAlso('knee_top')
    expect(desk.sent[0]?.body).toEqual({ frames: [20, 50] })
    desk.player.shown = 50
    new Marking(desk).markAlso('knee_top')
    expect(desk.sent[1]?.method).toBe('DELETE')
  })
  it('asks for no event that this rep does not ask for, and gives keys to those that it does', () => {
    const desk = new TestDesk([rep('rep', { asks: ['full_reach'] })])
    const marking = new Marking(desk)
    expect(marking.nextEvent).toBe('full_reach')
    expect(marking.events.map((event) => event.key)).toEqual(['full_reach'])
    desk.review = review({ reps: [rep('rep', { asks: ['full_reach'], events: { knee_top: [30] } })] })
    expect(marking.events.map((event) => event.key)).toEqual(['knee_top', 'full_reach'])
  })
  it('answers by eye and goes on to the next question without an answer', () => {
    const desk = new TestDesk()
    desk.checkpointId = 'toes_back'
    new Marking(desk).answer(false)
    expect(desk.sent[0]).toMatchObject({ path: '/reps/rep/answers/toes_back', body: { yes: false } })
    expect(desk.chosen).toEqual(['hands_up'])
  })
  it('does not pass by a measured checkpoint that needs points', () => {
    const needs = { body: null, landmark: null, event: null, frame: 4, words: '', count: 1 }
    const left = [{ ...needs, kind: 'points' as const, checkpoint: 'thigh_lifted' }]
    const desk = new TestDesk([rep('rep', { left })])
    desk.checkpointId = 'toes_back'
    new Marking(desk).answer(false)
    // In order: the question after it comes first, and what lies before is not forgotten.
    expect(desk.chosen).toEqual(['hands_up'])
    desk.checkpointId = null
    new Marking(desk).answer(false)
    expect(desk.chosen).toEqual(['hands_up', 'thigh_lifted'])
  })
  it('the same answer again takes it back and stays', () => {
    const desk = new TestDesk([rep('rep', { answers: { toes_back: true } })])
    desk.checkpointId = 'toes_back'
    new Marking(desk).answer(true)
    expect(desk.sent[0]?.method).toBe('DELETE')
    expect(desk.chosen).toEqual([])
  })
  it('passes over what is not asked of this rep', () => {
    const desk = new TestDesk([rep('rep', { judgements: [judgement('toes_back', { verdict: 'not_asked' })] })])
    new Marking(desk).answer(true)
    expect(desk.sent).toEqual([])
    expect(desk.chosen).toEqual(['hands_up'])
  })
  it('overrules with a reason and is done with it', () => {
    const desk = new TestDesk()
    const marking = new Marking(desk)
    marking.overruling = true
    marking.overrule({ verdict: 'met', reason: 'seen live' })
    expect(desk.sent[0]?.body).toEqual({ verdict: 'met', reason: 'seen live' })
    expect(marking.overruling).toBe(false)
  })
})

describe('points', () => {
  const placed = rep('rep', {
    needs: [need('right_hip', 40), need('right_knee', 40), need('left_toe', 40, 'other')],
    points: [point('right_hip', 40, { x: 100, y: 50 })],
  })
  it('asks for the first landmark that the checkpoint lacks, or the one picked', () => {
    const points = new Points(new TestDesk([placed]))
    expect(points.asked).toMatchObject({ landmark: 'right_knee', frame: 40 })
    points.picked = { body: 'partner', landmark: 'head' }
    expect(points.asked).toEqual({ body: 'partner', landmark: 'head', frame: 40 })
  })
  it('before its event is marked asks on the frame on screen for all that the technique reads', () => {
    const desk = new TestDesk([
      rep('rep', {
        needs: [need('right_hip', null), need('right_hip', null, 'other'), need('right_knee', null)],
        points: [point('right_hip', 40)],
      }),
    ])
    const points = new Points(desk)
    expect(points.seeds.map((spot) => spot.landmark)).toEqual(['right_hip', 'right_knee'])
    expect(points.asked).toMatchObject({ landmark: 'right_knee', frame: 40 })
  })
  it('marked blind, asks for all that was placed the first time', () => {
    const desk = new TestDesk([{ ...placed, blind_of: 'first' }])
    expect(new Points(desk).needs).toHaveLength(3)
  })
  it('shows a dragged point where it is dragged to', () => {
    const points = new Points(new TestDesk([placed]))
    points.dragging = { spot: { body: 'performer', landmark: 'right_hip', frame: 40 }, place: { x: 7, y: 8 } }
    expect(points.shown).toHaveLength(1)
    expect(points.shown[0]).toMatchObject({ x: 7, y: 8 })
  })
  it('places with the grain of the zoom, to hundredths', () => {
    const desk = new TestDesk([placed])
    const points = new Points(desk)
    points.grain = 0.333333
    points.place({ body: 'performer', landmark: 'right_knee', frame: 40 }, { x: 1.23456, y: 2 })
    expect(desk.sent[0]?.body).toEqual({ x: 1.23, y: 2, hidden: false, grain: 0.33 })
    expect(points.selected?.landmark).toBe('right_knee')
  })
  it('nudges the chosen point and keeps it within the picture', () => {
    const desk = new TestDesk([placed])
    const points = new Points(desk)
    points.nudge(1, 0)
    expect(desk.sent).toEqual([])
    points.selected = { body: 'performer', landmark: 'right_hip', frame: 40 }
    points.nudge(1, -1)
    points.nudge(1, -1)
    points.nudge(10_000, 0)
    expect(desk.sent.map((one) => one.body)).toMatchObject([
      { x: 101, y: 49 },
      { x: 102, y: 48 },
      { x: 640, y: 48 },
    ])
  })
  it('hides and removes the chosen point', () => {
    const desk = new TestDesk([placed])
    const points = new Points(desk)
    points.selected = { body: 'performer', landmark: 'right_hip', frame: 40 }
    points.toggleHidden()
    expect(desk.sent[0]?.body).toMatchObject({ hidden: true, x: 100 })
    points.removeSelected()
    expect(desk.sent[1]?.method).toBe('DELETE')
    expect(points.selected).toBeNull()
  })
  it('copies from the nearest frame that has the landmark', () => {
    const desk = new TestDesk([
      {
        ...placed,
        points: [point('right_hip', 40), point('right_knee', 10, { x: 1 }), point('right_knee', 60, { x: 2 })],
      },
    ])
    new Points(desk).copyNear()
    expect(desk.sent[0]).toMatchObject({ path: '/reps/rep/points/performer/right_knee/40', body: { x: 2 } })
  })
})

describe('tracking', () => {
  it('starts from placed points, or from another rep of the same performer', () => {
    expect(new Tracking(new TestDesk()).can).toBe(false)
    const desk = new TestDesk([rep('rep', { points: [point('right_hip', 40)] })])
    new Tracking(desk).start()
    expect(desk.sent[0]).toMatchObject({ method: 'POST', path: '/reps/rep/track', body: { first: 10, last: 90 } })
    expect(new Tracking(new TestDesk([rep('rep'), rep('b', { points: [point('right_hip', 40)] })])).can).toBe(true)
    expect(
      new Tracking(new TestDesk([rep('rep'), rep('b', { student_id: 'other', points: [point('right_hip', 40)] })])).can,
    ).toBe(false)
  })
  it('is not started twice, nor in a blind rep, nor once finished', () => {
    const points = [point('right_hip', 40)]
    const running = new TestDesk([rep('rep', { points })], { jobs: [job()] })
    expect([new Tracking(running).runs, new Tracking(running).can]).toEqual([true, false])
    new Tracking(running).start()
    expect(running.sent).toEqual([])
    expect(new Tracking(new TestDesk([rep('rep', { points, blind_of: 'x' })])).can).toBe(false)
    const finished = new TestDesk([rep('rep', { points })])
    finished.finished = true
    expect(new Tracking(finished).can).toBe(false)
  })
  it('tells what was lost, and removes what was tracked', () => {
    const desk = new TestDesk([rep('rep', { tracked: { lost: ['the head was lost'] } })])
    expect(new Tracking(desk).lost).toEqual(['the head was lost'])
    new Tracking(desk).remove()
    expect(desk.sent[0]).toMatchObject({ method: 'DELETE', path: '/reps/rep/tracked' })
  })
})

describe('the frame of reference', () => {
  it('collects the spots asked for and hands them over', () => {
    const desk = new TestDesk()
    const own = new Reference(desk)
    let found: unknown
    own.gather(['top', 'bottom'], (spots) => (found = spots))
    expect([desk.tool, desk.player.paused]).toEqual(['collect', 1])
    own.collectSpot({ x: 1.005, y: 2 })
    expect(found).toBeUndefined()
    own.collectSpot({ x: 3, y: 4.444 })
    expect(found).toEqual([
      { x: 1, y: 2 },
      { x: 3, y: 4.44 },
    ])
    expect(desk.tool).toBe('look')
  })
  it('marks a height by two clicks', () => {
    const desk = new TestDesk()
    const own = new Reference(desk)
    own.markHeight({ x: 0, y: 0 })
    own.markHeight({ x: 30, y: 40 })
    expect(desk.sent[0]).toMatchObject({ path: '/reviews/review/heights/performer', body: { px: 50 } })
  })
  it('names a still frame, and forgets it', () => {
    const desk = new TestDesk([rep('rep')], {
      reference: { lengths_px: { performer: { thigh: { px: 80, u: 2, frame: 12 } } } },
    })
    const own = new Reference(desk)
    expect(own.stillFrame('performer')).toBe(12)
    expect(own.stillFrame('partner')).toBeNull()
    own.readLengths('performer', null)
    expect(desk.sent[0]?.body).toEqual({ body: 'performer', frame: null })
    own.set('centimetres_per_pixel', 0.4)
    expect(desk.sent[1]?.body).toEqual({ centimetres_per_pixel: 0.4 })
  })
})

describe('over the mat', () => {
  it('is shown where it is asked for, or the checkpoint reads the mat', () => {
    const desk = new TestDesk()
    const mat = new OverMat(desk)
    expect(mat.shown).toBe(false)
    desk.review = review({
      reps: desk.review.reps,
      techniques: [technique({ checkpoints: [checkpoint('thigh_lifted', { kind: 'balance' })] })],
    })
    expect(mat.shown).toBe(true)
  })
  it('reads the current rep, and tells why it could not', async () => {
    const desk = new TestDesk()
    const mat = new OverMat(desk, () => Promise.resolve([{ frame: 3, feet: [], masses: [] }]))
    await mat.read()
    expect(mat.ground).toHaveLength(1)
    await new OverMat(desk, () => Promise.reject(new Error('away'))).read()
    expect(desk.told).toHaveLength(1)
  })
  it('leaves what comes late for another rep', async () => {
    const desk = new TestDesk([rep('rep'), rep('b')])
    const mat = new OverMat(desk, () => ((desk.repId = 'b'), Promise.resolve([{ frame: 3, feet: [], masses: [] }])))
    await mat.read()
    expect(mat.ground).toEqual([])
  })
})

describe('marking again, blind', () => {
  const marked = rep('rep', { events: { knee_top: [30] } })
  const scatter = { here: {}, all: {} } as never
  it('begins where something was marked, and chooses the new rep', async () => {
    const desk = new TestDesk([marked])
    const blind = new BlindRemarking(desk, {
      begin: () => Promise.resolve(review({ reps: [marked, rep('again', { blind_of: 'rep' })] })),
      compare: () => Promise.resolve(scatter),
    })
    await blind.begin()
    expect(desk.chosen).toEqual(['again'])
    expect(new BlindRemarking(new TestDesk()).can).toBe(false)
  })
  it('waits while something is being saved, and tells what failed', async () => {
    const desk = new TestDesk([marked])
    const blind = new BlindRemarking(desk, {
      begin: () => Promise.reject(new Error('away')),
      compare: () => Promise.reject(new Error('away')),
    })
    desk.saving = true
    await blind.begin()
    expect(desk.told).toEqual([])
    desk.saving = false
    await blind.begin()
    expect(desk.told).toHaveLength(1)
  })
  it('compares a blind rep alone', async () => {
    const desk = new TestDesk([rep('again', { blind_of: 'rep' })])
    const blind = new BlindRemarking(desk, {
      begin: () => Promise.reject(new Error('no')),
      compare: () => Promise.resolve(scatter),
    })
    await blind.compare()
    expect(blind.scatter).toBe(scatter)
    const plain = new BlindRemarking(new TestDesk([marked]), {
      begin: () => Promise.reject(new Error('no')),
      compare: () => Promise.reject(new Error('no')),
    })
    await plain.compare()
    expect(plain.scatter).toBeNull()
  })
})

describe('what to fix first', () => {
  const fix = (checkpoint: string, why: string | null = null) => ({
    technique: 'front-kick',
    checkpoint,
    fault: checkpoint,
    cue: '',
    misses: 1,
    exposures: 2,
    reason: '',
    why,
  })
  const missed = rep('rep', { judgements: [judgement('thigh_lifted')] })
  it('is chosen of what was missed, and what stood first stays second', () => {
    const desk = new TestDesk([missed], { fix_first: [fix('hands_up'), fix('toes_back')] })
    const fixes = new Fixes(desk)
    expect(fixes.can).toBe(true)
    fixes.choosing = true
    fixes.choose('a grading')
    expect(desk.sent[0]?.body).toEqual({
      choices: [
        { technique: 'front-kick', checkpoint: 'thigh_lifted' },
        { technique: 'front-kick', checkpoint: 'hands_up' },
      ],
      why: 'a grading',
    })
    expect(fixes.choosing).toBe(false)
  })
  it('is not chosen twice, nor of what was met', () => {
    expect(new Fixes(new TestDesk([missed], { fix_first: [fix('thigh_lifted', 'mine')] })).can).toBe(false)
    expect(
      new Fixes(new TestDesk([rep('rep', { judgements: [judgement('thigh_lifted', { counts_as_missed: false })] })]))
        .can,
    ).toBe(false)
  })
  it('goes back to what is recommended', () => {
    const desk = new TestDesk([missed])
    new Fixes(desk).asRecommended()
    expect(desk.sent[0]?.body).toEqual({ choices: [], why: '' })
  })
})

describe('the bodies in space', () => {
  const bodies = [
    {
      body: 'performer' as const,
      joints: ['right_hip', 'right_knee', 'right_ankle'],
      leaning: [
        { joint: 'right_knee', hangs_on: 'right_hip' },
        { joint: 'right_ankle', hangs_on: 'right_knee' },
      ],
      frames: [{ frame: 3, places: [0, 100, 500, 50, 0, 250, null, null, null], near: [80, 45] }],
    },
  ]
  class SpaceDesk extends TestDesk {
    points = { needs: [{ body: 'performer' as const, landmark: 'right_knee' }] }
  }
  async function shown(nearer: Schemas['Nearer'][] = []) {
    const desk = new SpaceDesk([rep('rep', { nearer })])
    desk.player.shown = 3
    const space = new SpaceFigures(desk, () => Promise.resolve(bodies))
    await space.read()
    return { desk, space }
  }
  it('draws what has a place on the frame, and tells how sure each lean is', async () => {
    const { desk, space } = await shown()
    expect(space.joints.map(({ name, y }) => [name, y])).toEqual([
      ['right_hip', 0.1],
      ['right_knee', 0],
    ])
    expect(space.leans.map(({ joint, nearer, sure }) => [joint, nearer, sure])).toEqual([
      ['right_knee', true, 80],
      ['right_ankle', false, 55],
    ])
    desk.player.shown = 4
    expect([space.joints, space.asking]).toEqual([[], null])
  })
  it('asks about the least sure joint that the checkpoint reads, or the one picked', async () => {
    const { space } = await shown()
    expect(space.asking?.joint).toBe('right_knee')
    space.pick({ body: 'performer', name: 'right_ankle', x: 0, y: 0, z: 0 })
    expect(space.asking?.joint).toBe('right_ankle')
    space.pick({ body: 'performer', name: 'right_hip', x: 0, y: 0, z: 0 })
    expect(space.asking?.joint).toBe('right_ankle')
  })
  it('says that it is nearer or farther, changes its mind, and takes it back', async () => {
    const spot = { body: 'performer' as const, landmark: 'right_knee', frame: 3 }
    const { desk, space } = await shown()
    space.say(false)
    expect((desk.sent[0]?.body as RepForm).nearer).toEqual([{ ...spot, nearer: false }])
    const told = await shown([{ ...spot, nearer: true }])
    told.space.say(false)
    expect((told.desk.sent[0]?.body as RepForm).nearer).toEqual([{ ...spot, nearer: false }])
    told.space.say(true)
    expect((told.desk.sent[1]?.body as RepForm).nearer).toEqual([])
  })
  it('says where the target lies once, and takes it back', () => {
    const desk = new SpaceDesk([rep('rep', { target_turn: { deg: 20, u: 5 } })])
    const space = new SpaceFigures(desk, () => Promise.resolve(bodies))
    space.sayTarget(20)
    expect(desk.sent).toEqual([])
    space.sayTarget(-30)
    expect((desk.sent[0]?.body as RepForm).target_turn).toEqual({ deg: -30, u: 5 })
    space.sayTarget(null)
    expect((desk.sent[1]?.body as RepForm).target_turn).toBeNull()
  })
  it('tells why it could not be read', async () => {
    const desk = new SpaceDesk()
    await new SpaceFigures(desk, () => Promise.reject(new Error('away'))).read()
    expect(desk.told).toHaveLength(1)
  })
})
