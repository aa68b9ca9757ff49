import { newId, type ClipTimes, type RepForm, type Review, type Technique } from '../../api/client'
import * as changes from './changes'
import type { Cut, Desk } from './desk'

type Needs = Pick<Desk, 'clip' | 'review' | 'rep' | 'player' | 'act'> & {
  chooseCut(id: string, first?: number): void
}

/** Reps and proposed cuts: setting ends, saying how a rep was done, accepting and dragging proposals. */
export class Cutting {
  /** How the next rep will be cut. */
  draft = $state<RepForm>() as RepForm
  /** The proposed cut that is being dragged, and where it is dragged to. */
  dragged = $state<{ index: number; cut: Cut } | null>(null)

  constructor(
    private readonly desk: Needs,
    library: readonly Technique[],
  ) {
    this.draft = firstDraft(desk.clip, desk.review, library)
  }

  /** The reps that are judged; one that is marked a second time is not among them. */
  get reps(): Review['reps'] {
    return this.desk.review.reps.filter((rep) => !rep.blind_of)
  }
  get techniqueNamed(): boolean {
    return this.desk.clip.naming.technique != null || this.desk.review.reps.length > 0
  }

  // --- proposed cuts ----------------------------------------------------------------------------------

  get proposals(): Cut[] {
    const { dragged } = this
    return this.desk.review.proposals.map((cut, index) => (dragged?.index === index ? dragged.cut : cut))
  }

  /** The proposed cut under the frame on screen, else the next one, else the last. */
  get here(): number {
    const at = this.desk.player.shown
    const all = this.desk.review.proposals
    const under = all.findIndex((cut) => cut.first <= at && at <= cut.last)
    if (under >= 0) return under
    const next = all.findIndex((cut) => cut.first > at)
    return next >= 0 ? next : all.length - 1
  }

  /** Cut a rep where a cut is proposed. */
  accept(index = this.here): void {
    if (this.desk.review.proposals[index]) this.#accept([index])
  }
  acceptAll(): void {
    const all = this.desk.review.proposals
    if (all.length > 0) this.#accept(all.map((_, index) => index))
  }
  drop(index = this.here): void {
    const all = this.desk.review.proposals
    if (all[index]) this.#propose(all.filter((_, other) => other !== index))
  }
  move(index: number, cut: Cut): void {
    this.#propose(this.desk.review.proposals.map((other, at) => (at === index ? cut : other)))
  }

  #propose(cuts: Cut[]): void {
    const { review } = this.desk
    this.desk.act(changes.setProposals(review.id, review.proposals, cuts))
  }
  #accept(indices: number[]): void {
    const { review } = this.desk
    const taken = review.proposals.filter((_, index) => indices.includes(index)).map((cut) => ({ cut, id: newId() }))
    const left = review.proposals.filter((_, index) => !indices.includes(index))
    const draft = $state.snapshot(this.draft)
    const cutting = taken.map(({ cut, id }) =>
      changes.cutRep(review.id, id, { ...draft, first_frame: cut.first, last_frame: cut.last }),
    )
    this.desk.act(
      changes.together('accept cuts', [...cutting, changes.setProposals(review.id, review.proposals, left)]),
    )
    // On to the first of them, where its work begins.
    const [first] = taken
    if (first) this.desk.chooseCut(first.id, first.cut.first)
  }

  // --- reps -----------------------------------------------------------------------------------------

  /** Set the start or end of the current rep, or of the next one to cut. */
  setEdge(edge: 'first_frame' | 'last_frame'): void {
    const { rep, review, player } = this.desk
    const frame = player.shown
    if (rep) {
      const valid = edge === 'first_frame' ? frame <= rep.last_frame : frame >= rep.first_frame
      if (valid) this.desk.act(changes.changeRep(review.id, rep, { [edge]: frame }))
      return
    }
    this.draft = { ...this.draft, [edge]: frame }
    const { first_frame: first, last_frame: last } = this.draft
    if (first >= 0 && last > first) this.#cut()
  }

  #cut(): void {
    const id = newId()
    this.desk.act(changes.cutRep(this.desk.review.id, id, $state.snapshot(this.draft)))
    this.desk.chooseCut(id)
  }

  describe(change: Partial<RepForm>): void {
    const { rep, review } = this.desk
    // A start says where the rep begins and from when the partner resists.
    if (change.start) change = { ...change, start_at: null, resists_from: null }
    if (rep) this.desk.act(changes.changeRep(review.id, rep, change))
    else this.draft = { ...this.draft, ...change }
  }

  /** Have every rep of this technique judged in one layer, or in all that it asks. */
  layerOfAll(layer: string | null): void {
    const { rep, review } = this.desk
    const alike = this.reps.filter((other) => other.technique === rep?.technique && (other.layer ?? null) !== layer)
    if (alike.length > 0)
      this.desk.act(
        changes.together(
          'judge in one layer',
          alike.map((other) => changes.changeRep(review.id, other, { layer })),
        ),
      )
  }

  /** Make the frame on screen a start that the technique is drilled from. */
  makeStart(): void {
    const { rep, player } = this.desk
    if (rep && rep.first_frame <= player.shown && player.shown <= rep.last_frame)
      this.desk.act(changes.makeStart(rep, player.shown))
  }

  /** Begin another rep, cut like the last one. */
  begin(): void {
    this.draft = { ...this.draft, first_frame: -1, last_frame: -1 }
  }

  delete(): void {
    const { rep, review } = this.desk
    if (rep) this.desk.act(changes.deleteRep(review.id, rep, review.corrections))
  }
}

/** How the next rep will be cut: like the last one, else as the clip is named, else a plain attempt at the
 * first technique. */
export function firstDraft(
  clip: Pick<ClipTimes, 'naming'>,
  review: Pick<Review, 'reps'>,
  library: readonly Pick<Technique, 'id'>[],
): RepForm {
  const { naming } = clip
  const last = review.reps.at(-1)
  const form = last ? changes.repForm(last) : null
  const plain: RepForm = {
    first_frame: -1,
    last_frame: -1,
    side: naming.side ?? 'right',
    technique: naming.technique ?? library[0]?.id ?? '',
    options: naming.options ?? {},
    heading: 'right',
    view: naming.view ?? 'side',
    partner: naming.partner ?? 'person',
    pace: naming.pace ?? 'full',
    rung: naming.rung ?? null,
    purpose: 'attempt',
    student_id: null,
    partner_student_id: null,
    outcome: null,
    layer: null,
    start: null,
    start_at: null,
    end_at: null,
    resists_from: null,
    reaction: null,
    finish: null,
    stance: null,
    grade: null,
    linked_to: null,
    nearer: [],
    target_turn: null,
  }
  return { ...plain, ...form, first_frame: -1, last_frame: -1, nearer: [], target_turn: null }
}
