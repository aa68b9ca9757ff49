import type { Rep, Schemas } from '../../api/client'
import { byTouch, stepWays } from '../../parts/touch'
import { spoken } from '../../parts/words'
import type { Bench } from './bench.svelte'

export type Left = Schemas['Left']

/** What is to be done next: in words, and what Enter does about it. Where Enter can do nothing, `more` says why. */
export interface Step {
  what: string
  more: string
  enter?: { does: string; run: () => void }
  /** Other ways that a button offers, each with its key. */
  others?: { key?: string; does: string; run: () => void }[]
  /** It can be left for now. */
  skip?: () => void
}

const GUIDING: readonly Left['kind'][] = ['event', 'height', 'lengths', 'seed', 'track', 'points', 'poor', 'answer']
/** Nothing that the coach did brought the playhead where it is. */
const MOVED = -1

/** One line that leads through a review: what is next, done by Enter. */
export class Guide {
  /** What was left for later, by rep and what it is about. */
  #skipped = $state.raw<ReadonlySet<string>>(new Set())
  /** The frame at which the playhead was left by the bench itself; once it is elsewhere, the coach has moved it. */
  #rest = $state(0)

  constructor(private readonly bench: Bench) {}

  /** The bench has put the playhead here. */
  rests(frame: number): void {
    this.#rest = frame
  }

  enter(): void {
    this.step?.enter?.run()
  }

  /** What is left of a rep that the coach is led to. */
  guiding(rep: Rep): Left[] {
    return rep.left.filter((one) => GUIDING.includes(one.kind) && !this.#skipped.has(keyOf(rep, one)))
  }

  get step(): Step | null {
    const { bench } = this
    if (bench.finished) return null
    if (bench.tool !== 'look') return this.#tool()
    if (!bench.rep) return this.#cutting()
    if (bench.marking.outside) return this.#outside(bench.rep, bench.marking.outside)
    return this.#inRep(bench.rep)
  }

  // --- cutting -------------------------------------------------------------------------------------

  #cutting(): Step {
    const { bench } = this
    const { proposals, reps } = bench.review
    const begun = bench.cutting.draft.first_frame >= 0
    if (proposals.length > 0 && !begun) {
      const many = proposals.length > 1
      return {
        what: `${proposals.length} ${many ? 'cuts are' : 'cut is'} proposed`,
        more: 'where something moves. Drag an edge to change one.',
        enter: { does: many ? 'accept them all' : 'accept it', run: () => bench.cutting.acceptAll() },
        others: [
          { key: 'A', does: 'accept this one', run: () => bench.cutting.accept() },
          { key: 'D', does: 'drop this one', run: () => bench.cutting.drop() },
          ...this.#back(),
        ],
      }
    }
    const edge = begun ? 'last_frame' : 'first_frame'
    return {
      what: begun ? 'Go to the last frame of the rep' : reps.length > 0 ? 'Cut another rep' : 'Cut a rep',
      more: begun ? `It begins at frame ${bench.cutting.draft.first_frame}.` : `Go to its first frame ${stepWays()}.`,
      enter: {
        does: begun ? 'end it at this frame' : 'begin it at this frame',
        run: () => bench.cutting.setEdge(edge),
      },
      others: this.#back(),
    }
  }
  #back(): Step['others'] & object {
    const first = this.bench.review.reps[0]
    return first ? [{ key: '⇧↓', does: 'rep 1', run: () => this.bench.choose(first.id) }] : []
  }

  // --- a rep ---------------------------------------------------------------------------------------

  #inRep(rep: Rep): Step {
    const { bench } = this
    const [next] = this.guiding(rep)
    if (rep.points.length === 0 && bench.tracking.can && !this.#skipped.has(`${rep.id}.like`))
      return {
        what: 'Find the points as in the last rep',
        more: 'Bodies are found where they look as they did there.',
        enter: { does: 'find them', run: () => bench.tracking.start() },
        skip: () => this.#skip(`${rep.id}.like`),
      }
    if (bench.tracking.runs && next?.kind !== 'answer')
      return {
        what: 'The points are being tracked',
        more: 'Events and points can be marked meanwhile; what is found shows by itself.',
        ...(next?.kind === 'event' ? { others: [this.#markHere(next)] } : {}),
      }
    if (next) return { ...this.#of(rep, next), skip: () => this.#skip(keyOf(rep, next)) }
    return this.#correct(rep) ?? this.#elsewhere(rep)
  }

  /** An event was marked where the cut does not reach. */
  #outside(rep: Rep, { event, frame }: { event: string; frame: number }): Step {
    const { bench } = this
    return {
      what: `Frame ${frame} lies outside rep ${bench.numberOf(rep)}`,
      more: `It was cut from ${rep.first_frame} to ${rep.last_frame}.`,
      enter: { does: `extend the rep and mark ${spoken(event)} here`, run: () => bench.marking.extend() },
      others: [{ key: 'Esc', does: 'leave it', run: () => bench.dropTool() }],
    }
  }

  #of(rep: Rep, left: Left): Step {
    const { bench } = this
    switch (left.kind) {
      case 'event':
        return this.#event(rep, left)
      case 'height':
      case 'lengths':
        return this.#height(left)
      case 'track':
        return {
          what: 'Track the points',
          more: left.words,
          enter: { does: 'track', run: () => bench.tracking.start() },
        }
      case 'seed':
      case 'poor':
        return {
          what: `Place the ${left.body}’s ${spoken(left.landmark ?? '')} in frame ${left.frame}`,
          more: left.words,
          enter: { does: 'go there and place it', run: () => this.goTo(rep, left) },
        }
      case 'points':
        return {
          what: `Place ${left.count} ${left.count === 1 ? 'point' : 'points'} in frame ${left.frame}`,
          more: left.words,
          enter: { does: 'place', run: () => this.goTo(rep, left) },
        }
      default: {
        const here = bench.checkpointId === left.checkpoint
        return {
          what: left.words,
          more: here ? (bench.checkpoint?.look_for ?? '') : 'It is answered by eye.',
          ...(here
            ? {
                others: [
                  { key: 'Y', does: 'yes', run: () => bench.marking.answer(true) },
                  { key: 'N', does: 'no', run: () => bench.marking.answer(false) },
                ],
              }
            : { enter: { does: 'go to the question', run: () => this.goTo(rep, left) } }),
        }
      }
    }
  }

  #event(rep: Rep, left: Left): Step {
    const { bench } = this
    const event = left.event ?? ''
    const number = bench.marking.events.findIndex((one) => one.key === event) + 1
    const proposal = rep.proposed.find((one) => one.event === event)
    const moved = bench.player.wanted !== this.#rest
    const inside = rep.first_frame <= bench.player.wanted && bench.player.wanted <= rep.last_frame
    const there = inside && (moved || proposal?.frame === bench.player.wanted)
    const others: Step['others'] = []
    if (proposal && !(there && proposal.frame === bench.player.wanted))
      others.push({ key: 'Q', does: `mark at ${proposal.frame}`, run: () => bench.marking.acceptProposed() })
    if (rep.proposed.length > 1)
      others.push({
        key: '⇧Q',
        does: `mark all ${rep.proposed.length} proposed`,
        run: () => bench.marking.acceptAllProposed(),
      })
    if (number > 0 && number < 10)
      others.push({ key: `⇧${number}`, does: 'did not happen', run: () => bench.marking.didNotHappen(event) })
    return {
      what: `Next: ${spoken(event)}`,
      more: `${left.words}.${there || proposal ? '' : ` Step to it ${stepWays()}.`}`,
      ...(there
        ? { enter: { does: `mark it at frame ${bench.player.wanted}`, run: () => this.#markAndGoOn(rep, event) } }
        : {}),
      ...(!there && proposal
        ? {
            enter: {
              does: `go to frame ${proposal.frame}, where it seems to be`,
              run: () => {
                bench.player.go(proposal.frame)
                this.#rest = MOVED
              },
            },
          }
        : {}),
      others,
    }
  }
  #markHere(left: Left): { key: string; does: string; run: () => void } {
    const number = this.bench.marking.events.findIndex((one) => one.key === left.event) + 1
    return {
      key: String(number),
      does: `mark ${spoken(left.event ?? '')} here`,
      run: () => left.event && this.bench.marking.mark(left.event),
    }
  }
  /** Mark an event at the frame on screen, and show where the one after it seems to be. */
  #markAndGoOn(rep: Rep, event: string): void {
    const { bench } = this
    bench.marking.mark(event)
    const after = this.guiding(rep).find((one) => one.kind === 'event' && one.event !== event)
    const proposal = rep.proposed.find((one) => one.event === after?.event)
    if (proposal) bench.player.go(proposal.frame)
    this.#rest = proposal ? MOVED : bench.player.wanted
  }

  #height(left: Left): Step {
    const { bench } = this
    const body = left.body ?? 'performer'
    const take = () => {
      bench.reference.heightBody = body
      bench.take('height')
    }
    if (left.kind === 'lengths')
      return {
        what: `Read the ${body}’s limb lengths off this frame`,
        more: left.words,
        enter: { does: 'read them here', run: () => bench.reference.readLengths(body, bench.player.shown) },
        others: bench.reference.otherHeights(body),
      }
    return {
      what: `Mark the ${body}’s height`,
      more: left.words,
      enter: { does: `${byTouch() ? 'touch' : 'click'} crown and sole`, run: take },
      others: bench.reference.otherHeights(body),
    }
  }

  /** A fault that is to be fixed first gets its correction where this rep shows it. */
  #correct(rep: Rep): Step | null {
    const { bench } = this
    const fix = this.#uncorrected(rep)[0]
    if (!fix) return null
    const ask = bench.technique?.checkpoints.find((one) => one.id === fix)?.ask ?? fix
    return {
      what: 'Draw the correction',
      more: ask,
      enter: {
        does: 'draw it',
        run: () => {
          bench.chooseCheckpoint(fix)
          bench.corrections.drawDefault()
        },
      },
      skip: () => this.#skip(`correct.${fix}`),
    }
  }
  #uncorrected(rep: Rep): string[] {
    const { review } = this.bench
    return review.fix_first
      .filter((fix) => fix.technique === rep.technique && !this.#skipped.has(`correct.${fix.checkpoint}`))
      .map((fix) => fix.checkpoint)
      .filter((id) => rep.judgements.some((one) => one.id === id && one.counts_as_missed))
      .filter((id) => !review.corrections.some((one) => one.checkpoint === id))
  }

  /** This rep is done: the next one, the cuts that are left, or the end. */
  #elsewhere(rep: Rep): Step {
    const { bench } = this
    const { reps, proposals } = bench.review
    const at = reps.indexOf(rep)
    const others = [...reps.slice(at + 1), ...reps.slice(0, at)]
    const next = others.find((one) => this.guiding(one).length > 0 || this.#uncorrected(one).length > 0)
    if (next)
      return {
        what: 'This rep is done',
        more: 'Other reps are not yet.',
        enter: { does: `go to rep ${bench.numberOf(next)}`, run: () => bench.choose(next.id) },
      }
    if (proposals.length > 0 && !this.#skipped.has('cuts'))
      return {
        what: `${proposals.length} proposed ${proposals.length === 1 ? 'cut is' : 'cuts are'} left`,
        more: 'Accept or drop them.',
        enter: {
          does: 'look at them',
          run: () => {
            bench.choose(null)
            bench.player.go(proposals[0]?.first ?? 0)
          },
        },
        skip: () => this.#skip('cuts'),
      }
    return {
      what: 'All reps are done',
      more: 'What is fixed first is below the list.',
      enter: { does: 'finish the review', run: () => (bench.finishAsked = true) },
    }
  }

  // --- going there ---------------------------------------------------------------------------------

  /** Go where something that is left is done. */
  goTo(rep: Rep, left: Left): void {
    const { bench } = this
    if (bench.repId !== rep.id) bench.choose(rep.id)
    const proposal = rep.proposed.find((one) => one.event === left.event)
    if (left.checkpoint) bench.chooseCheckpoint(left.checkpoint)
    if (left.kind === 'event' && proposal) bench.player.go(proposal.frame)
    if (left.kind === 'points') {
      if (left.frame !== null) bench.player.go(left.frame)
      if (bench.tool !== 'points') bench.take('points')
    }
    if ((left.kind === 'seed' || left.kind === 'poor') && left.body && left.landmark) {
      if (left.frame !== null) bench.player.go(left.frame)
      if (bench.tool !== 'points') bench.take('points')
      bench.points.askAlone(left.body, left.landmark)
    }
    if (left.kind === 'height') this.#height(left).enter?.run()
  }

  #skip(key: string): void {
    this.#skipped = new Set([...this.#skipped, key])
  }

  // --- while a tool is taken -----------------------------------------------------------------------

  #clickWhat(): string {
    const { tool, reference } = this.bench
    const click = byTouch() ? 'Touch' : 'Click'
    if (tool === 'height')
      return reference.heightFrom
        ? `${click} the sole of the foot`
        : `${click} the crown of the ${reference.heightBody}’s head, in a frame of standing straight`
    if (tool === 'collect')
      return `${click} ${reference.collecting?.asking[reference.collecting.spots.length] ?? 'a spot'}`
    return `${click} where the mark goes`
  }
  #tool(): Step {
    const { bench } = this
    const end = { key: 'Esc', does: 'put the tool down', run: () => bench.dropTool() }
    if (bench.tool === 'points') {
      const asked = bench.points.asked
      if (asked && asked.frame !== bench.player.shown)
        return {
          what: `${spoken(asked.landmark)} is placed in frame ${asked.frame}`,
          more: '',
          enter: { does: 'go there', run: () => bench.player.go(asked.frame) },
          others: [end],
        }
      if (asked) {
        const what = `${byTouch() ? 'Touch' : 'Click'} the ${asked.body}’s ${spoken(asked.landmark)}`
        const others = [{ key: 'V', does: 'as in the nearest frame', run: () => bench.points.copyNear() }, end]
        if (byTouch()) return { what, more: '', others }
        const { cross } = bench.points
        return {
          what,
          more: cross ? 'Steer with Alt and the arrow keys.' : 'Or place it by keys.',
          enter: cross
            ? { does: 'place it here', run: () => bench.points.placeCross() }
            : { does: 'steer by keys', run: () => bench.points.showCross() },
          others,
        }
      }
      return {
        what: 'All points of this checkpoint are placed',
        more: '',
        enter: { does: 'go on', run: () => bench.dropTool() },
      }
    }
    return { what: this.#clickWhat(), more: '', others: [end] }
  }
}

function keyOf(rep: Rep, left: Left): string {
  const { event, checkpoint, body, landmark } = left
  return [rep.id, left.kind, event ?? checkpoint ?? body ?? '', landmark ?? ''].join('.')
}
