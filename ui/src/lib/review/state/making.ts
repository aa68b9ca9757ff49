import type { Change, Checkpoint, ClipTimes, Job, Judgement, Point, Rep, Review, Technique } from '../../api/client'
import type { Act } from './changes'
import type { Desk, Tool } from './desk'

/** Things of the API as unit tests begin from: whole, with what a test says changed. */

export function checkpoint(id: string, change: Partial<Checkpoint> = {}): Checkpoint {
  return {
    id,
    phase: 'chamber',
    kind: 'angle',
    by_eye: false,
    eye_instead: false,
    entry: false,
    best_view: null,
    ask: id,
    look_for: null,
    unit: 'deg',
    within: [null, 85],
    reason_for_range: '',
    fault: id,
    family: 'range',
    cues: ['Up'],
    why: '',
    core: false,
    safety: false,
    at: [],
    ...change,
  }
}

export function technique(change: Partial<Technique> = {}): Technique {
  return {
    id: 'front-kick',
    version: 1,
    name: 'Front kick',
    aliases: [],
    family: 'kicks',
    summary: '',
    phases: ['chamber'],
    options: [],
    ladder: ['solo'],
    layers: [],
    starts: [],
    best_view: null,
    cautions: [],
    events: ['knee_top', 'full_reach'].map((key) => ({ key, phase: 'chamber', mark: key, body: 'performer' as const })),
    checkpoints: [
      checkpoint('thigh_lifted'),
      checkpoint('toes_back', { kind: 'seen', by_eye: true }),
      checkpoint('hands_up', { kind: 'seen', by_eye: true }),
    ],
    ...change,
  }
}

export function judgement(id: string, change: Partial<Judgement> = {}): Judgement {
  return {
    id,
    kind: 'angle',
    phase: 'chamber',
    verdict: 'missed',
    fault: id,
    safety: false,
    value: null,
    unit: 'deg',
    uncertainty: null,
    within: null,
    frames: [],
    reason: null,
    notes: [],
    measured: null,
    because: null,
    view: null,
    rests_on: [],
    to_settle: null,
    counts: true,
    counts_as_missed: true,
    ...change,
  }
}

export function point(landmark: string, frame: number, change: Partial<Point> = {}): Point {
  return {
    body: 'performer',
    landmark,
    frame,
    x: 5,
    y: 6,
    hidden: false,
    by: 'placed',
    sigma: null,
    grain: null,
    ...change,
  }
}

export function rep(id: string, change: Partial<Rep> = {}): Rep {
  return {
    id,
    technique: 'front-kick',
    technique_version: 1,
    first_frame: 10,
    last_frame: 90,
    side: 'right',
    heading: 'right',
    view: 'side',
    partner: 'none',
    pace: 'full',
    rung: null,
    purpose: 'attempt',
    options: {},
    outcome: null,
    layer: null,
    start: null,
    start_at: null,
    end_at: null,
    resists_from: null,
    nearer: [],
    target_turn: null,
    reaction: null,
    finish: null,
    stance: null,
    grade: null,
    linked_to: null,
    blind_of: null,
    student_id: null,
    partner_student_id: null,
    tracked: null,
    proposed: [],
    events: {},
    points_version: `points of ${id}`,
    points_held: false,
    points: [],
    answers: {},
    judgements: [],
    reacted: [],
    asks: ['knee_top', 'full_reach'],
    choice: null,
    needs: [],
    left: [],
    ...change,
  }
}

export function review(change: Partial<Review> = {}): Review {
  return {
    id: 'review',
    clip_id: 'clip',
    student_id: 'student',
    revision: 0,
    finished_at: null,
    heights_px: {},
    heights_offered: [],
    own_events_ms: null,
    reference: { lengths_px: {} },
    proposals: [],
    reps: [],
    corrections: [],
    fix_first: [],
    recommended: [],
    techniques: [technique()],
    revisions: 0,
    reopened_why: null,
    said: [],
    jobs: [],
    ...change,
  }
}

export function clip(frames = 200, change: Partial<ClipTimes> = {}): ClipTimes {
  const times = Array.from({ length: frames }, (_, frame) => frame / 30)
  return {
    id: 'clip',
    student_id: 'student',
    student: 'A Student',
    name: 'kick.mp4',
    folder: '',
    filmed_on: '2026-05-04',
    state: 'ready',
    failure: null,
    frames_done: frames,
    frames_expected: frames,
    reading_since: null,
    size_bytes: 1,
    codec: 'h264',
    width: 640,
    height: 360,
    rotation: 0,
    mirrored: false,
    nominal_fps: 30,
    variable_rate: false,
    duration_s: frames / 30,
    dropped_frames: 0,
    repeated_frames: 0,
    has_film: true,
    has_sound: false,
    sound_broke_off: false,
    capture_rate: [{ frame: 0, rate: 1 }],
    capture_sure: true,
    capture_why: '',
    camera: null,
    film: null,
    naming: { options: {}, question: '' },
    review: 'open',
    line: '',
    suggested: '',
    pts_s: times,
    real_s: times,
    views: [],
    ...change,
  }
}

export function job(change: Partial<Job> = {}): Job {
  return {
    id: 'job',
    task: 'track_points',
    about: 'rep',
    clip_id: 'clip',
    state: 'running',
    done: 3,
    of: 12,
    reason: null,
    stop_asked: false,
    asked_at: '2026-05-04T10:00:00Z',
    ...change,
  }
}

/** A desk that keeps what is done on it. */
export class TestDesk implements Desk {
  clip = clip()
  review = review()
  repId: string | null = null
  checkpointId: string | null = 'thigh_lifted'
  tool: Tool = 'look'
  finished = false
  saving = false
  told: unknown[] = []
  sent: Change[] = []
  player = {
    shown: 40,
    wanted: 40,
    went: [] as number[],
    paused: 0,
    go: (frame: number) => void this.player.went.push(frame),
    pause: () => void this.player.paused++,
  }
  chosen: string[] = []

  constructor(reps: Rep[] = [rep('rep')], change: Partial<Review> = {}) {
    this.review = review({ reps, ...change })
    this.repId = reps[0]?.id ?? null
  }
  get rep(): Rep | null {
    return this.review.reps.find((one) => one.id === this.repId) ?? null
  }
  get reps(): Rep[] {
    return this.review.reps.filter((one) => !one.blind_of)
  }
  get technique(): Technique | null {
    return this.review.techniques[0] ?? null
  }
  get checkpoint(): Checkpoint | null {
    return this.technique?.checkpoints.find((one) => one.id === this.checkpointId) ?? null
  }
  get judgement(): Judgement | null {
    return this.rep?.judgements.find((one) => one.id === this.checkpointId) ?? null
  }
  needing(of: Rep): ReadonlySet<string> {
    return new Set(of.left.flatMap((one) => (one.kind === 'points' && one.checkpoint ? [one.checkpoint] : [])))
  }
  act(act: Act): void {
    this.sent.push(...act.forward)
  }
  get revision(): number {
    return this.review.revision
  }
  seen: number[] = []
  send(changes: readonly Change[], seen = this.revision): void {
    this.seen.push(seen)
    this.sent.push(...changes)
  }
  tell(error: unknown): void {
    this.told.push(error)
  }
  chooseCut(id: string): void {
    this.chosen.push(id)
  }
  chooseCheckpoint(id: string): void {
    this.chosen.push(id)
  }
  choose(id: string): void {
    this.chosen.push(id)
  }
  refresh(): Promise<void> {
    return Promise.resolve()
  }
  dropTool(): void {
    this.tool = 'look'
  }
}
