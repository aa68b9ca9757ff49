import type { Rep, Schemas, Technique } from '../../api/client'
import * as changes from './changes'
import type { Desk } from './desk'

type Needs = Pick<
  Desk,
  'review' | 'rep' | 'technique' | 'checkpoint' | 'checkpointId' | 'finished' | 'player' | 'act'
> & {
  chooseCheckpoint(id: string): void
  /** The measured checkpoints of a rep that need something the coach has not put off. */
  needing(rep: Rep): ReadonlySet<string>
}

/** Events, answers by eye, and verdicts in place of measured ones. */
export class Marking {
  /** True while the coach writes why a verdict is overruled. */
  overruling = $state(false)
  /** An event that was marked outside of the rep: it is asked whether the cut is to reach so far. */
  outside = $state<{ event: string; frame: number } | null>(null)

  constructor(private readonly desk: Needs) {}

  /** The events that this rep asks for or has marked, in the order of marking; a key marks each of the first nine. */
  get events(): Technique['events'] {
    const { rep, technique } = this.desk
    return technique?.events.filter(({ key }) => !rep || rep.asks.includes(key) || key in rep.events) ?? []
  }
  get nextEvent(): string | null {
    const { rep } = this.desk
    return (rep && this.events.find((event) => !(event.key in rep.events))?.key) ?? null
  }

  /** Where the next event that is not marked seems to be. */
  get proposed(): Schemas['Proposed'] | null {
    const { rep } = this.desk
    return rep?.proposed.find((proposal) => proposal.event === this.nextEvent) ?? rep?.proposed[0] ?? null
  }

  /** Mark an event at the frame on screen; on its own frame again takes the mark away. */
  mark(event: string): void {
    const { rep, player } = this.desk
    if (!rep) return
    const frame = player.shown
    if (frame < rep.first_frame || frame > rep.last_frame) return void (this.outside = { event, frame })
    const again = rep.events[event]?.includes(frame)
    this.desk.act(changes.markEvent(rep, event, again ? null : [frame]))
  }

  /** Let the rep reach to where an event was marked outside of it, and mark it. */
  extend(): void {
    const { rep, review } = this.desk
    const { outside } = this
    this.outside = null
    if (!rep || !outside) return
    const { event, frame } = outside
    const reach = {
      first_frame: Math.min(rep.first_frame, frame),
      last_frame: Math.max(rep.last_frame, frame),
    }
    this.desk.act(
      changes.together('extend the rep', [
        changes.changeRep(review.id, rep, reach),
        changes.markEvent(rep, event, [frame]),
      ]),
    )
  }

  /** Mark an event at the frame on screen beside where it is marked already, as it may come several times; on a frame of its own
   * again takes that one away. */
  markAlso(event: string): void {
    const { rep, player } = this.desk
    if (!rep) return
    const frame = player.shown
    const before = rep.events[event] ?? []
    const after = before.includes(frame)
      ? before.filter((one) => one !== frame)
      : [...before, frame].toSorted((a, b) => a - b)
    this.desk.act(changes.markEvent(rep, event, after.length > 0 ? after : null))
  }

  /** Mark the next event where it is proposed, and show that frame. */
  acceptProposed(): void {
    const { rep, player } = this.desk
    const { proposed } = this
    if (!rep || !proposed) return
    player.go(proposed.frame)
    this.desk.act(changes.markEvent(rep, proposed.event, [proposed.frame]))
  }

  /** Mark every event that is proposed at its frame, as one act. */
  acceptAllProposed(): void {
    const { rep, finished } = this.desk
    if (!rep || finished || rep.proposed.length === 0) return
    const asked = new Set(this.events.map((event) => event.key))
    const acts = rep.proposed
      .filter((one) => asked.has(one.event) && !(one.event in rep.events))
      .map((one) => changes.markEvent(rep, one.event, [one.frame]))
    if (acts.length > 0) this.desk.act(changes.together('mark proposed events', acts))
  }

  didNotHappen(event: string): void {
    const { rep } = this.desk
    if (rep) this.desk.act(changes.markEvent(rep, event, rep.events[event]?.length === 0 ? null : []))
  }

  /** Whether the current checkpoint could not be measured, and takes an answer by eye instead. */
  get #eyeInstead(): boolean {
    const { rep, checkpoint } = this.desk
    const judged = rep?.judgements.find((one) => one.id === checkpoint?.id)
    return !!checkpoint?.eye_instead && (judged?.kind === 'seen' || judged?.verdict === 'not_seen')
  }

  /** Answer the current checkpoint by eye and go on to the next question that has no answer yet. */
  answer(yes: boolean): void {
    const { rep, checkpoint: here, finished, technique } = this.desk
    if (!rep || finished) return
    const byEye = here?.by_eye || this.#eyeInstead
    if (here && byEye) {
      const again = rep.answers[here.id] === yes
      this.desk.act(changes.answer(rep, here.id, again ? null : yes))
      if (again) return
    }
    const all = technique?.checkpoints ?? []
    const needing = this.desk.needing(rep)
    // A measured checkpoint that needs something is not passed by: it is shown, and the line says what it needs.
    const open = all.filter(
      (c) =>
        c.id !== here?.id &&
        (needing.has(c.id) ||
          (c.by_eye && !(c.id in rep.answers) && rep.judgements.find((j) => j.id === c.id)?.verdict !== 'not_asked')),
    )
    const at = here && byEye ? all.indexOf(here) : -1
    // An answer that is being saved is not known yet: those after it come first.
    const next = open.find((c) => all.indexOf(c) > at) ?? open[0]
    if (next) this.desk.chooseCheckpoint(next.id)
  }

  /** Give the current checkpoint another verdict, with the reason; null goes back to what was measured. */
  overrule(given: { verdict: changes.Verdict; reason: string } | null): void {
    const { rep, checkpointId } = this.desk
    if (rep && checkpointId) this.desk.act(changes.overrule(rep, checkpointId, given))
    this.overruling = false
  }
}
