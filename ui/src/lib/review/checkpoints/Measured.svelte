<script lang="ts">
  import { shown as withUnit } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
    /** Picture pixels in a screen pixel. */
    scale: number
  }
  let { bench, scale }: Props = $props()

  /** The places that the checkpoint reads, in its order: as placed or tracked on the frame on screen. */
  const places = $derived.by(() => {
    const seen = bench.points.needs.map((need) =>
      bench.points.shown.find((point) => point.body === need.body && point.landmark === need.landmark),
    )
    const found = seen.filter((point) => point !== undefined)
    return found.filter(
      (point, i) => found.findIndex((other) => other.body === point.body && other.landmark === point.landmark) === i,
    )
  })
  const kind = $derived(bench.checkpoint?.kind ?? '')
  const middle = (points: { x: number; y: number }[]) => ({
    x: points.reduce((sum, point) => sum + point.x, 0) / points.length,
    y: points.reduce((sum, point) => sum + point.y, 0) / points.length,
  })

  /** The way of the first landmark through the rep, for what asks about ways. */
  const way = $derived.by(() => {
    const need = bench.points.needs[0]
    if (!need || !['path', 'speed', 'peak'].includes(kind)) return ''
    const points = (bench.rep?.points ?? []).filter(
      (point) => point.body === need.body && point.landmark === need.landmark,
    )
    const [from, to] = (bench.checkpoint?.at ?? []).map((event) => bench.rep?.events[event]?.[0])
    const inside = points
      .filter((point) => point.frame >= (from ?? -Infinity) && point.frame <= (to ?? Infinity))
      .sort((a, b) => a.frame - b.frame)
    return inside.map((point) => `${point.x},${point.y}`).join(' ')
  })
  /** The straight way from where a path begins to where it ends. */
  const chord = $derived.by(() => {
    const spots = way.split(' ')
    return kind === 'path' && spots.length > 2 ? `${spots[0]} ${spots.at(-1)}` : ''
  })
  /** Of a line through several points: the one that lies farthest from the chord, and its foot on it. */
  const widest = $derived.by(() => {
    const [a, z] = [places[0], places.at(-1)]
    if (kind !== 'line' || places.length < 3 || !a || !z) return null
    const [dx, dy] = [z.x - a.x, z.y - a.y]
    const long = Math.hypot(dx, dy) || 1
    const feet = places.slice(1, -1).map((point) => {
      const along = ((point.x - a.x) * dx + (point.y - a.y) * dy) / long / long
      const foot = { x: a.x + along * dx, y: a.y + along * dy }
      return { point, foot, off: Math.hypot(point.x - foot.x, point.y - foot.y) }
    })
    return { a, z, ...feet.reduce((far, one) => (one.off > far.off ? one : far)) }
  })
  const line = $derived(
    ['line', 'gap', 'relation', 'inclination', 'change', 'facing'].includes(kind) && places.length >= 2 ? places : [],
  )
  const ground = $derived(bench.mat.ground.find((one) => one.frame === bench.player.shown))
  const judgement = $derived(bench.judgement)
  /** The mass of the body that the checkpoint reads. */
  const masses = $derived(
    kind === 'balance'
      ? (ground?.masses ?? []).filter((mass) => mass.body === (bench.points.needs[0]?.body ?? 'performer'))
      : [],
  )
  const label = $derived(line.length ? middle(line) : (masses[0] ?? null))
  const here = $derived(judgement?.frames.includes(bench.player.shown) || bench.points.dragging !== null)
</script>

{#if kind === 'balance'}
  {#each masses as mass (mass.body)}
    {@const tone = mass.body === 'performer' ? 'var(--performer-mark)' : 'var(--partner-mark)'}
    <line
      x1={mass.x}
      x2={mass.x}
      y1={mass.y}
      y2={mass.y + 400 * scale}
      stroke={tone}
      stroke-width={1.4 * scale}
      stroke-dasharray="{5 * scale} {4 * scale}"
    />
    <circle cx={mass.x} cy={mass.y} r={9 * scale} fill="none" stroke="#14181a" stroke-width={4 * scale} />
    <circle cx={mass.x} cy={mass.y} r={9 * scale} fill="none" stroke={tone} stroke-width={2 * scale} /><path
      d="M{mass.x - 9 * scale} {mass.y}h{18 * scale}M{mass.x} {mass.y - 9 * scale}v{18 * scale}"
      stroke={tone}
      stroke-width={1.4 * scale}
    />
    {#each ['left', 'right'] as const as side (side)}
      {@const sole = bench.points.shown.find((point) => point.body === mass.body && point.landmark === `${side}_toe`)}
      {#if sole && mass.left != null}
        <text
          x={sole.x}
          y={sole.y + 24 * scale}
          text-anchor="middle"
          font-size={15 * scale}
          font-weight="600"
          fill="#fff"
          stroke="#14181a"
          stroke-width={4 * scale}
          paint-order="stroke"
          class="num">{Math.round(100 * (side === 'left' ? mass.left : 1 - mass.left))} %</text
        >
      {/if}
    {/each}
  {/each}
{/if}
{#if way}<polyline points={way} fill="none" stroke="#14181a" stroke-width={4 * scale} stroke-opacity="0.6" /><polyline
    points={way}
    fill="none"
    stroke="#fff"
    stroke-width={1.8 * scale}
  />{/if}
{#if chord}<polyline
    points={chord}
    fill="none"
    stroke="#fff"
    stroke-width={1.4 * scale}
    stroke-dasharray="{5 * scale} {4 * scale}"
  />{/if}
{#if widest}
  <line
    x1={widest.a.x}
    y1={widest.a.y}
    x2={widest.z.x}
    y2={widest.z.y}
    stroke="#fff"
    stroke-width={1.2 * scale}
    stroke-dasharray="{5 * scale} {4 * scale}"
  />
  <line
    x1={widest.point.x}
    y1={widest.point.y}
    x2={widest.foot.x}
    y2={widest.foot.y}
    stroke="#fff"
    stroke-width={2.6 * scale}
  />
{/if}
{#if line.length}
  {#if kind === 'relation'}
    <!-- What is higher than what: a level through each place. -->
    {#each [line[0], middle(line.slice(1))] as place, i (i)}
      {#if place}<line
          x1={place.x - 70 * scale}
          x2={place.x + 70 * scale}
          y1={place.y}
          y2={place.y}
          stroke="#fff"
          stroke-width={1.6 * scale}
          stroke-dasharray={i ? `${5 * scale} ${4 * scale}` : null}
        />{/if}
    {/each}
  {:else}
    <polyline
      points={line.map((place) => `${place.x},${place.y}`).join(' ')}
      fill="none"
      stroke="#fff"
      stroke-opacity="0.85"
      stroke-width={1.6 * scale}
      stroke-dasharray={kind === 'gap' ? `${5 * scale} ${4 * scale}` : null}
    />
    {#if kind === 'inclination' && line[0]}<line
        x1={line[0].x}
        x2={line[0].x}
        y1={line[0].y}
        y2={line[0].y - 90 * scale}
        stroke="#fff"
        stroke-width={1.2 * scale}
        stroke-dasharray="{5 * scale} {4 * scale}"
      />{/if}
  {/if}
{/if}
{#if label && here && judgement?.value != null}
  {@const text = withUnit(judgement.value, judgement.unit)}
  <g transform="translate({label.x + 26 * scale} {label.y}) scale({scale})" data-testid="measured">
    <rect x="0" y="-13" width={text.length * 9.5 + 14} height="26" fill="#14181a" fill-opacity="0.85" />
    <text x="7" dy="6" fill="#fff" class="num" font-size="16" font-weight="600">{text}</text>
  </g>
{/if}
