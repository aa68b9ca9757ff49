import { client, unwrap, type BodyName, type Schemas } from '../../api/client'
import * as changes from './changes'
import type { Desk } from './desk'

type Bodies = Schemas['BelievedBody'][]

/** A joint of a body as it is believed to be in a frame: shares of standing height, to the right, away from the camera, up. */
export interface Joint {
  body: BodyName
  name: string
  x: number
  y: number
  z: number
}

/** Whether a joint is nearer to the camera than what it hangs on. */
export interface Lean {
  body: BodyName
  joint: string
  hangsOn: string
  nearer: boolean
  /** How likely that is, per cent: 50 to 100. */
  sure: number
  /** Somebody said so in this frame. */
  told: boolean
}

/** The bodies in space, as they are believed to be, and what a coach says of their depth. */
export class SpaceFigures {
  bodies = $state.raw<Bodies>([])
  /** The coach asked for it. */
  asked = $state(false)
  /** It was read since it was asked for. */
  known = $state(false)
  picked = $state.raw<{ body: BodyName; joint: string } | null>(null)

  constructor(
    private readonly desk: Pick<Desk, 'rep' | 'repId' | 'review' | 'player' | 'act' | 'tell'> & {
      readonly points: { readonly needs: readonly { body: BodyName; landmark: string }[] }
    },
    private readonly fetched = (rep: string): Promise<Bodies> =>
      unwrap(client.GET('/api/reps/{rep_id}/space', { params: { path: { rep_id: rep } } })),
  ) {}

  async read(): Promise<void> {
    const { rep } = this.desk
    if (!rep) return void (this.bodies = [])
    try {
      const found = await this.fetched(rep.id)
      if (rep.id !== this.desk.repId) return
      this.bodies = found
      this.known = true
    } catch (error) {
      this.desk.tell(error)
    }
  }

  /** The frame on the screen, or of a long rep, of which not every frame is shown, the last one before it. */
  #shown(frames: Bodies[number]['frames']): Bodies[number]['frames'][number] | undefined {
    const { shown } = this.desk.player
    const steps = frames.slice(1).map(({ frame }, i) => frame - (frames[i]?.frame ?? 0))
    const step = steps.length ? Math.min(...steps) : 1
    return frames.findLast(({ frame }) => frame <= shown && shown - frame < step)
  }

  /** The joints of the frame on the screen. */
  get joints(): Joint[] {
    return this.bodies.flatMap(({ body, joints, frames }) => {
      const here = this.#shown(frames)
      return joints.flatMap((name, i) => {
        const [x, y, z] = here?.places.slice(3 * i, 3 * i + 3) ?? []
        return x == null || y == null || z == null ? [] : [{ body, name, x: x / 1000, y: y / 1000, z: z / 1000 }]
      })
    })
  }

  /** What is believed of every leaning joint in the frame on the screen. */
  get leans(): Lean[] {
    const frame = this.desk.player.shown
    const told = new Set(
      (this.desk.rep?.nearer ?? []).filter((one) => one.frame === frame).map((one) => `${one.body} ${one.landmark}`),
    )
    return this.bodies.flatMap(({ body, leaning, frames }) => {
      const near = this.#shown(frames)?.near ?? []
      return leaning.flatMap(({ joint, hangs_on: hangsOn }, i) => {
        const share = near[i]
        if (share == null) return []
        const nearer = share >= 50
        return [
          { body, joint, hangsOn, nearer, sure: nearer ? share : 100 - share, told: told.has(`${body} ${joint}`) },
        ]
      })
    })
  }

  /** The joint that is asked about: the one picked, else the least sure of those that the checkpoint reads. */
  get asking(): Lean | null {
    const { picked, leans } = this
    const chosen = picked && leans.find((lean) => lean.body === picked.body && lean.joint === picked.joint)
    if (chosen) return chosen
    const read = new Set(this.desk.points.needs.map(({ body, landmark }) => `${body} ${landmark}`))
    const own = leans.filter((lean) => read.has(`${lean.body} ${lean.joint}`))
    return [...(own.length ? own : leans)].sort((a, b) => a.sure - b.sure)[0] ?? null
  }

  pick(joint: Joint): void {
    if (this.leans.some((lean) => lean.body === joint.body && lean.joint === joint.name))
      this.picked = { body: joint.body, joint: joint.name }
  }

  /** Say that the joint which is asked about is nearer or farther; the same again takes it back. */
  say(nearer: boolean): void {
    const { rep, review, player } = this.desk
    const lean = this.asking
    if (!rep || !lean) return
    this.picked = { body: lean.body, joint: lean.joint }
    const spot = { body: lean.body, landmark: lean.joint, frame: player.shown }
    this.desk.act(changes.sayNearer(review.id, rep, spot, lean.told && lean.nearer === nearer ? null : nearer))
  }

  /** How far the line to the target is turned away from the camera, degrees, as a coach told it; null where nobody did. */
  get targetTurn(): number | null {
    return this.desk.rep?.target_turn?.deg ?? null
  }

  sayTarget(deg: number | null): void {
    const { rep, review } = this.desk
    if (rep && deg !== this.targetTurn) this.desk.act(changes.sayTargetTurn(review.id, rep, deg))
  }
}
