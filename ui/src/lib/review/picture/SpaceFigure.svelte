<script lang="ts">
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import type { Joint } from '../state/space.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const [WIDTH, HEIGHT] = [250, 190]
  const LIMBS = (['left', 'right'] as const).flatMap((side) => [
    [`${side}_hip`, `${side}_knee`, 9],
    [`${side}_knee`, `${side}_ankle`, 7],
    [`${side}_ankle`, `${side}_heel`, 4],
    [`${side}_heel`, `${side}_toe`, 5],
    [`${side}_ankle`, `${side}_toe`, 4],
    [`${side}_shoulder`, `${side}_elbow`, 7],
    [`${side}_elbow`, `${side}_wrist`, 5],
    [`${side}_wrist`, `${side}_hand`, 4],
    [`${side}_hip`, `${side}_shoulder`, 6],
  ]) as [string, string, number][]
  const ALONE: readonly [string, string, number][] = [
    ['left_hip', 'right_hip', 8],
    ['left_shoulder', 'right_shoulder', 8],
    ['mid_shoulder', 'neck', 6],
    ['neck', 'head_top', 5],
  ]
  const colour = { performer: 'var(--performer-mark)', partner: 'var(--partner-mark)' }
  /** Degrees that the figure is turned about the vertical; at nought it is seen as it was filmed. */
  let turn = $state(35)
  const space = $derived(bench.space)
  const joints = $derived(space.joints)
  /** The span of all joints of the rep, so that the figure keeps its size while the clip steps. */
  const span = $derived.by(() => {
    let [wide, high] = [0.4, 0.6]
    for (const { frames } of space.bodies)
      for (const { places } of frames)
        for (let i = 0; i + 2 < places.length; i += 3) {
          wide = Math.max(wide, Math.hypot(places[i] ?? 0, places[i + 1] ?? 0) / 1000)
          high = Math.max(high, (places[i + 2] ?? 0) / 1000)
        }
    return { wide, high }
  })
  const px = $derived(Math.min((HEIGHT - 34) / span.high, (WIDTH - 24) / 2 / span.wide))
  /** Where a joint is drawn, and how far away it is. */
  const drawn = $derived.by(() => {
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)]
    return ({ x, y, z }: Joint) => {
      const [right, away] = [x * c + y * s, y * c - x * s]
      return { x: WIDTH / 2 + right * px, y: HEIGHT - 18 - z * px - away * px * 0.12, away }
    }
  })
  const limbs = $derived.by(() => {
    const at = new Map(joints.map((joint) => [`${joint.body} ${joint.name}`, joint]))
    const found = (['performer', 'partner'] as const).flatMap((body) =>
      [...LIMBS, ...ALONE].flatMap(([from, to, thick]) => {
        const [a, b] = [at.get(`${body} ${from}`), at.get(`${body} ${to}`)]
        if (!a || !b) return []
        const [p, q] = [drawn(a), drawn(b)]
        return [{ key: `${body} ${from} ${to}`, body, p, q, thick, away: (p.away + q.away) / 2 }]
      }),
    )
    return found.sort((a, b) => b.away - a.away)
  })
  /** Joints that a coach may tell of. */
  const told = $derived(
    space.leans.flatMap((lean) => {
      const joint = joints.find((one) => one.body === lean.body && one.name === lean.joint)
      return joint ? [{ lean, joint, spot: drawn(joint) }] : []
    }),
  )
  const asking = $derived(space.asking)
  const whose = $derived(space.bodies.length > 1 && asking ? `${asking.body}’s ` : '')
  const closed = $derived(
    !bench.finished ? '' : bench.watching ? 'Coaches say so.' : 'This review is finished. Open it again to say so.',
  )
  const name = (key: string) => ({ mid_shoulder: 'upper body', mid_hip: 'hips' })[key] ?? spoken(key)
  /** Where the target is drawn on the mat: from the middle, in the figure's own axes, squarely across where nobody told it. */
  const target = $derived.by(() => {
    const { heading, view } = bench.rep ?? { heading: 'right', view: 'side' }
    const quarter = { front: -90, behind: 90 }[view as string] ?? 0
    const deg = (space.targetTurn ?? 0) + quarter
    const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)]
    const reach = Math.min((WIDTH / 2 - 14) / px, span.wide)
    const x = (heading === 'left' ? -c : c) * reach
    return {
      from: drawn({ body: 'performer', name: '', x: 0, y: 0, z: 0 }),
      to: drawn({ body: 'performer', name: '', x, y: s * reach, z: 0 }),
    }
  })
  const TURNS = [-45, -30, -20, -10, 0, 10, 20, 30, 45]
  /** The usual ones, and one from a file that lies between them. */
  const tellable = $derived(
    [...new Set([...TURNS, ...(space.targetTurn === null ? [] : [space.targetTurn])])].sort((a, b) => a - b),
  )
  function turnWords(deg: number): string {
    if (deg === 0) return bench.rep?.view === 'side' ? 'square across' : 'as filmed'
    return `${Math.abs(deg)}° ${deg > 0 ? 'away from' : 'towards'} the camera`
  }
  let held: { x: number; turn: number } | null = null
</script>

<figure class="space" data-testid="space" aria-label="The bodies in space">
  <svg
    viewBox="0 0 {WIDTH} {HEIGHT}"
    width={WIDTH}
    height={joints.length ? HEIGHT : 64}
    role="img"
    aria-label="The bodies in space, turned by {Math.round(turn)}°. Drag to turn."
    onpointerdown={(event) => {
      held = { x: event.clientX, turn }
      event.currentTarget.setPointerCapture(event.pointerId)
    }}
    onpointermove={(event) => {
      if (held) turn = held.turn + (event.clientX - held.x) * 0.7
    }}
    onpointerup={(event) => {
      if (held && Math.abs(event.clientX - held.x) < 3) {
        const box = event.currentTarget.getBoundingClientRect()
        const at = { x: event.clientX - box.left, y: event.clientY - box.top }
        const near = told
          .map((one) => ({ one, off: Math.hypot(one.spot.x - at.x, one.spot.y - at.y) }))
          .filter(({ off }) => off < 12)
          .sort((a, b) => a.off - b.off)[0]
        if (near) space.pick(near.one.joint)
      }
      held = null
    }}
    onpointercancel={() => (held = null)}
  >
    {#if joints.length}
      <ellipse
        cx={WIDTH / 2}
        cy={HEIGHT - 18}
        rx={Math.min(WIDTH / 2 - 8, span.wide * px)}
        ry={Math.max(6, span.wide * px * 0.12)}
        fill="#f6f2e9"
        fill-opacity="0.1"
      />
      <line
        x1={target.from.x}
        y1={target.from.y}
        x2={target.to.x}
        y2={target.to.y}
        stroke="#f6f2e9"
        stroke-width="1.5"
        stroke-dasharray={space.targetTurn === null ? '2 4' : 'none'}
      />
      <circle cx={target.to.x} cy={target.to.y} r="3" fill="#f6f2e9" />
      {#each limbs as limb (limb.key)}
        <line
          x1={limb.p.x}
          y1={limb.p.y}
          x2={limb.q.x}
          y2={limb.q.y}
          stroke="#14181a"
          stroke-width={limb.thick + 2.5}
          stroke-linecap="round"
        />
        <line
          x1={limb.p.x}
          y1={limb.p.y}
          x2={limb.q.x}
          y2={limb.q.y}
          stroke={colour[limb.body]}
          stroke-width={limb.thick}
          stroke-linecap="round"
        />
      {/each}
      {#each told as { lean, spot } (`${lean.body} ${lean.joint}`)}
        {@const picked = asking?.body === lean.body && asking.joint === lean.joint}
        <circle
          cx={spot.x}
          cy={spot.y}
          r={picked ? 6 : 2.4}
          fill={picked ? 'none' : lean.told ? '#fff' : '#14181a'}
          stroke={picked ? '#fff' : 'none'}
          stroke-width="2"
        />
      {/each}
    {:else}
      <text x="10" y="24" font-size="11" fill="#f6f2e9"
        >{space.known && !space.bodies.length
          ? 'No length of a body is known.'
          : space.known
            ? 'No points on this frame.'
            : 'One moment…'}</text
      >
      {#if space.known}<text x="10" y="42" font-size="11" fill="#f6f2e9"
          >{space.bodies.length
            ? 'Go to a frame with points, or track them (K).'
            : 'Mark the standing height first: H.'}</text
        >{/if}
    {/if}
  </svg>
  {#if joints.length}
    <div class="row">
      <span>drag to turn</span>
      <button class="back" onclick={() => (turn = 0)} disabled={turn === 0}><RotateCcw size={12} /> as filmed</button>
    </div>
  {/if}
  {#if joints.length}
    <label class="target">
      Line to the target
      <select
        value={space.targetTurn === null ? '' : String(space.targetTurn)}
        disabled={bench.finished}
        title={closed}
        onchange={(event) => {
          const { value } = event.currentTarget
          space.sayTarget(value === '' ? null : Number(value))
        }}
      >
        <option value="">not told</option>
        {#each tellable as deg (deg)}
          <option value={String(deg)}>{turnWords(deg)}</option>
        {/each}
      </select>
    </label>
  {/if}
  {#if asking}
    <div class="ask" role="group" aria-label="How deep the {name(asking.joint)} lies">
      <p>
        Is the {whose}<strong>{name(asking.joint)}</strong> nearer to the camera than the {name(asking.hangsOn)}?
      </p>
      <div class="row">
        {#each [[true, 'nearer'], [false, 'farther']] as const as [nearer, word] (word)}
          <button
            class="say"
            aria-pressed={asking.told && asking.nearer === nearer}
            disabled={bench.finished}
            title={closed}
            onclick={() => space.say(nearer)}>{word}</button
          >
        {/each}
        <span class="num">
          {#if asking.told}you said so{:else}it looks {asking.nearer ? 'nearer' : 'farther'} ({asking.sure} %){/if}
        </span>
      </div>
    </div>
  {/if}
</figure>

<style>
  .space {
    width: 250px;
    pointer-events: auto;
    background: rgb(20 24 26 / 0.9);
    color: #f6f2e9;
    font-size: 0.75rem;
  }
  svg {
    display: block;
    cursor: grab;
    touch-action: none;
  }
  .row {
    display: flex;
    align-items: center;
    gap: 0.4rem;
    padding: 0 0.5rem 0.3rem;
  }
  .row > :last-child {
    margin-left: auto;
  }
  .target {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 0.4rem;
    padding: 0.25rem 0.5rem 0.35rem;
    border-top: 1px solid rgb(246 242 233 / 0.25);
  }
  .target select {
    padding: 0.05rem 0.3rem;
    border: 1px solid rgb(246 242 233 / 0.6);
    background: #14181a;
    color: #f6f2e9;
    font-size: 0.75rem;
  }
  .ask p {
    padding: 0.25rem 0.5rem 0.35rem;
    border-top: 1px solid rgb(246 242 233 / 0.25);
  }
  .say,
  .back {
    display: inline-flex;
    align-items: center;
    gap: 0.25rem;
    padding: 0.1rem 0.5rem;
    border: 1px solid rgb(246 242 233 / 0.6);
    cursor: pointer;
  }
  .say[aria-pressed='true'] {
    background: #f6f2e9;
    color: #14181a;
    font-weight: 600;
  }
  .back:disabled,
  .say:disabled {
    opacity: 0.45;
    cursor: default;
  }
</style>
