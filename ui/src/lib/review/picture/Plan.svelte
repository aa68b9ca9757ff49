<script lang="ts">
  import type { Schemas } from '../../api/client'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const SIDE = 190
  const here = $derived(bench.mat.ground.find((one) => one.frame === bench.player.shown))
  /** What the performer's feet cover of the mat, with half a metre around it, as a square; without them, what
   * the partner's do. */
  const box = $derived.by(() => {
    const feet = bench.mat.ground.flatMap((one) => one.feet)
    const own = feet.filter((foot) => foot.body === 'performer')
    const spots = (own.length ? own : feet).flatMap((foot) => [foot.heel, foot.toe])
    if (!spots.length) return null
    const xs = spots.map(({ x }) => x)
    const ys = spots.map(({ y }) => y)
    const side = Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)) + 1
    return {
      x: (Math.max(...xs) + Math.min(...xs) - side) / 2,
      y: (Math.max(...ys) + Math.min(...ys) - side) / 2,
      side,
    }
  })
  const px = $derived(box ? SIDE / box.side : 1)
  /** Metres on the mat → pixels of the plan; the target lies to the right. */
  const at = ({ x, y }: Schemas['OnMat']) => ({ x: (x - (box?.x ?? 0)) * px, y: SIDE - (y - (box?.y ?? 0)) * px })
  const mid = (foot: Schemas['Foot']) => ({ x: (foot.heel.x + foot.toe.x) / 2, y: (foot.heel.y + foot.toe.y) / 2 })
  const colour = { performer: 'var(--performer-mark)', partner: 'var(--partner-mark)' }
  const base = $derived((here?.feet ?? []).filter((foot) => foot.body === 'performer'))
  /** The way of each of the performer's feet up to here. */
  const ways = $derived(
    (['left', 'right'] as const).map((side) =>
      bench.mat.ground
        .filter((one) => one.frame <= bench.player.shown)
        .flatMap((one) =>
          one.feet.filter((foot) => foot.body === 'performer' && foot.side === side).map((foot) => at(mid(foot))),
        )
        .map((spot) => `${spot.x.toFixed(1)},${spot.y.toFixed(1)}`)
        .join(' '),
    ),
  )
  const apart = $derived.by(() => {
    const [a, b] = base.map(mid)
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : null
  })
  const centre = $derived(
    base.length
      ? at({
          x: base.reduce((sum, foot) => sum + mid(foot).x, 0) / base.length,
          y: base.reduce((sum, foot) => sum + mid(foot).y, 0) / base.length,
        })
      : null,
  )
</script>

<figure class="plan" data-testid="plan">
  <svg
    viewBox="0 0 {SIDE} {box ? SIDE : 52}"
    width={SIDE}
    height={box ? SIDE : 52}
    role="img"
    aria-label="The mat from above, target to the right"
  >
    {#if box}
      {#if centre}
        <!-- Lines of 45° through the middle of the base: the directions in which steps are told. -->
        {#each [0, 45, 90, 135] as deg (deg)}
          {@const [dx, dy] = [Math.cos((deg * Math.PI) / 180) * SIDE, Math.sin((deg * Math.PI) / 180) * SIDE]}
          <line
            x1={centre.x - dx}
            y1={centre.y - dy}
            x2={centre.x + dx}
            y2={centre.y + dy}
            stroke="#f6f2e9"
            stroke-opacity="0.28"
            stroke-dasharray={deg % 90 ? '3 4' : null}
          />
        {/each}
      {/if}
      {#each ways as way, i (i)}{#if way}<polyline
            points={way}
            fill="none"
            stroke={colour.performer}
            stroke-opacity="0.6"
          />{/if}{/each}
      {#if base.length === 2 && base[0] && base[1]}
        <polygon
          points={[base[0].heel, base[0].toe, base[1].toe, base[1].heel]
            .map(at)
            .map((spot) => `${spot.x},${spot.y}`)
            .join(' ')}
          fill={colour.performer}
          fill-opacity="0.14"
        />
      {/if}
      {#each here?.feet ?? [] as foot (foot.body + foot.side)}
        {@const [heel, toe] = [at(foot.heel), at(foot.toe)]}
        <line
          x1={heel.x}
          y1={heel.y}
          x2={toe.x}
          y2={toe.y}
          stroke={colour[foot.body]}
          stroke-width="9"
          stroke-linecap="round"
        />
        <circle cx={toe.x} cy={toe.y} r="2" fill="#14181a" />
      {/each}
      <line x1="8" y1={SIDE - 8} x2={8 + px / 2} y2={SIDE - 8} stroke="#f6f2e9" stroke-width="2" /><text
        x="8"
        y={SIDE - 13}
        font-size="10"
        fill="#f6f2e9">0.5 m</text
      >
      <text x={SIDE - 8} y="14" text-anchor="end" font-size="10" fill="#f6f2e9">target →</text>
    {:else}
      <text x="10" y="24" font-size="11" fill="#f6f2e9">No foot has heel and toe yet.</text>
      <text x="10" y="42" font-size="11" fill="#f6f2e9"
        >{(bench.review.reference as { floor?: unknown }).floor
          ? 'Place them, or track points.'
          : 'Mark a tile first: clip card, I.'}</text
      >
    {/if}
  </svg>
  <figcaption class="num">{apart === null ? 'mat from above' : `feet ${apart.toFixed(2)} m apart`}</figcaption>
</figure>

<style>
  .plan {
    background: rgb(20 24 26 / 0.86);
    pointer-events: none;
  }
  figcaption {
    padding: 0 0.5rem 0.25rem;
    color: #f6f2e9;
    font-size: 0.75rem;
  }
</style>
