<script lang="ts">
  import { poseAt, type Figure } from '../../figure/motion'
  import Segments from '../../parts/Segments.svelte'
  import { spoken } from '../../parts/words'
  import { absolute, relative } from './forms'
  import { jointPlace, sector, angleOf, LIMBS, POINTS, type Spot } from './pose'

  interface Props {
    figure: Figure
    seconds: number
    sides: readonly [string, string]
    /** The points that are read, as the file names them. */
    points: readonly string[]
    joined: boolean
    /** A click on a landmark, as the file names it. */
    picked: (point: string) => void
    /** What the next click is for; empty where nothing is asked. */
    asked: string
    /** A range of degrees that is drawn and dragged on the picture: at the middle one of three points, or from upright. */
    wedge?: { kind: 'joint' | 'lean'; within: readonly [number | null, number | null]; step: number } | undefined
    dragged?: (within: [number | null, number | null]) => void
  }
  /** The figure at one instant, flat: its landmarks are clicked, and a range of an angle is dragged on it. */
  let { figure, seconds, sides, points, joined, picked, asked, wedge, dragged }: Props = $props()
  let from = $state<'side' | 'front' | 'above'>('side')
  let svg: SVGSVGElement | undefined = $state()

  const bodies = $derived(figure.bodies.map((body, i) => ({ body: body.body, pose: poseAt(figure, i, seconds) })))
  const flat = $derived((body: string, joint: string): Spot | null => {
    const found = bodies.find((one) => one.body === body)
    return found ? jointPlace(found.pose, joint, from) : null
  })
  const placed = $derived(
    bodies.flatMap(({ body, pose }) =>
      POINTS.filter((joint) => joint !== 'mid_foot').map((joint) => ({
        body,
        joint,
        at: jointPlace(pose, joint, from),
        name: relative(joint, body, sides),
      })),
    ),
  )
  const box = $derived.by(() => {
    const xs = placed.map((one) => one.at.x)
    const ys = placed.map((one) => one.at.y)
    const [x, y] = [Math.min(...xs) - 0.25, Math.min(...ys) - 0.2]
    return { x, y, width: Math.max(...xs) - x + 0.25, height: Math.max(...ys, 0) - y + 0.1 }
  })
  const read = $derived(
    points
      .map((point) => absolute(point))
      .map(({ body, joint }) => flat(body, joint))
      .filter((one) => one !== null),
  )
  const fan = $derived(wedge && from === 'side' ? sector(wedge.kind, read, wedge.within) : null)

  function drag(event: PointerEvent, end: 0 | 1): void {
    if (!svg || !wedge || !fan || event.buttons === 0) return
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM()?.inverse())
    const degrees = Math.round(angleOf(fan, at) / wedge.step) * wedge.step
    const [lo, hi] = wedge.within
    if (end === 0) dragged?.([Math.min(degrees, hi ?? 180), hi])
    else dragged?.([lo, Math.max(degrees, lo ?? 0)])
  }
</script>

<div class="flex flex-wrap items-center gap-3 text-sm">
  <span class="soft">Seen from</span>
  <Segments
    label="Seen from"
    choices={[
      ['side', 'side'],
      ['front', 'front'],
      ['above', 'above'],
    ]}
    value={from}
    changed={(next) => (from = next)}
  />
</div>
<svg
  bind:this={svg}
  class="mt-2"
  viewBox="{box.x} {box.y} {box.width} {box.height}"
  role="img"
  aria-label={asked ? `Click the ${asked} on the figure` : 'The figure at this instant'}
  data-testid="pose"
>
  {#if from !== 'above'}<line x1={box.x} x2={box.x + box.width} y1="0" y2="0" class="mat" />{/if}
  {#each bodies as { body, pose } (body)}
    {#each LIMBS as [a, b] (a + b)}
      {@const start = jointPlace(pose, a, from)}
      {@const end = jointPlace(pose, b, from)}
      <line x1={start.x} y1={start.y} x2={end.x} y2={end.y} class="limb" class:partner={body === 'partner'} />
    {/each}
    {@const top = jointPlace(pose, 'head_top', from)}
    {@const neck = jointPlace(pose, 'neck', from)}
    <circle
      cx={top.x * 0.55 + neck.x * 0.45}
      cy={top.y * 0.55 + neck.y * 0.45}
      r="0.1"
      class="head"
      class:partner={body === 'partner'}
    />
  {/each}
  {#if fan}
    <path d={fan.path} class="fan" />
  {/if}
  {#if joined && read.length > 1}<polyline points={read.map((at) => `${at.x},${at.y}`).join(' ')} class="read" />{/if}
  {#each placed as { body, at, name } (body + name)}
    {@const on = points.includes(name)}
    <!-- The sentence has the same points for the keyboard and for screen readers. -->
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
    <circle
      cx={at.x}
      cy={at.y}
      r={on ? 0.035 : 0.024}
      class="spot"
      class:on
      class:partner={body === 'partner'}
      data-point={name}
      onclick={() => picked(name)}
    >
      <title>{spoken(name.replace('partner.', 'partner’s '))}</title>
    </circle>
  {/each}
  {#if fan}
    {#each fan.ends as end (end.which)}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <circle
        cx={end.x}
        cy={end.y}
        r="0.04"
        class="handle"
        data-testid="handle-{end.which}"
        onpointerdown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onpointermove={(event) => drag(event, end.which)}
      />
    {/each}
  {/if}
</svg>

<style>
  svg {
    width: 100%;
    height: 22rem;
    border: 1px solid var(--rule);
    background: var(--band);
    touch-action: none;
  }
  .mat {
    stroke: var(--soft);
    stroke-width: 0.008;
  }
  .limb {
    stroke: var(--performer);
    stroke-width: 0.03;
    stroke-linecap: round;
    opacity: 0.4;
  }
  .head {
    fill: var(--performer);
    opacity: 0.4;
  }
  .limb.partner {
    stroke: var(--partner);
  }
  .head.partner {
    fill: var(--partner);
  }
  .read {
    fill: none;
    stroke: var(--ink);
    stroke-width: 0.014;
  }
  .spot {
    fill: var(--page);
    stroke: var(--performer);
    stroke-width: 0.01;
    cursor: pointer;
  }
  .spot.partner {
    stroke: var(--partner);
  }
  .spot:hover {
    fill: var(--flash);
  }
  .spot.on {
    fill: var(--ink);
  }
  .fan {
    fill: var(--met);
    opacity: 0.3;
  }
  .handle {
    fill: var(--met);
    stroke: var(--page);
    stroke-width: 0.01;
    cursor: grab;
  }
</style>
