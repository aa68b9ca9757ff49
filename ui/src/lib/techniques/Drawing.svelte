<script lang="ts">
  import type { Schemas } from '../api/client'
  import { joins } from '../figure/motion'
  import { pointName, type Side } from './words'

  /** A checkpoint on a sample rep: the limbs around it in thin lines, what it reads in heavy ones. */
  let { drawn, kind, side = 'right' }: { drawn: Schemas['DrawnOut']; kind: string; side?: Side } = $props()

  const all = $derived([...drawn.spots, ...drawn.limbs.flatMap((limb) => [limb.start, limb.end])])
  const box = $derived.by(() => {
    const xs = all.map((spot) => spot.x)
    const ys = all.map((spot) => spot.y)
    const pad = 70
    const [x, y] = [Math.min(...xs) - pad, Math.min(...ys) - pad / 2]
    return { x, y, width: Math.max(...xs) - x + pad, height: Math.max(...ys) - y + pad / 2 }
  })
  // Words as large on the screen whatever the figure's own size.
  const size = $derived(Math.max(box.height / 15, box.width / 26))
  const heads = $derived(drawn.limbs.filter((limb) => limb.start.name === 'head_top'))
  const joined = $derived(joins(kind, drawn.spots.length))
  const flip = $derived(side === 'left' ? `translate(${2 * box.x + box.width} 0) scale(-1 1)` : '')
  const labelX = (x: number) => (side === 'left' ? 2 * box.x + box.width - x : x)
</script>

{#if drawn.spots.length}
  <svg viewBox="{box.x} {box.y} {box.width} {box.height}" role="img" aria-label="The checkpoint on a sample rep">
    <g transform={flip}>
      {#each drawn.limbs as { start, end }, i (i)}
        <line x1={start.x} y1={start.y} x2={end.x} y2={end.y} class="limb" class:partner={start.body === 'partner'} />
      {/each}
      {#each heads as { start, end }, i (i)}
        <ellipse
          cx={(start.x + end.x) / 2}
          cy={start.y * 0.6 + end.y * 0.4}
          rx={Math.hypot(start.x - end.x, start.y - end.y) * 0.36}
          ry={Math.hypot(start.x - end.x, start.y - end.y) * 0.44}
          transform="rotate({(Math.atan2(end.x - start.x, start.y - end.y) * -180) / Math.PI + 180} {(start.x + end.x) /
            2} {start.y * 0.6 + end.y * 0.4})"
          class="head"
          class:partner={start.body === 'partner'}
        />
      {/each}
      {#if joined}
        <polyline points={drawn.spots.map((spot) => `${spot.x},${spot.y}`).join(' ')} class="read" />
      {/if}
      {#each drawn.spots as spot, i (i)}
        <circle cx={spot.x} cy={spot.y} r="6" class="spot" class:partner={spot.body === 'partner'} />
      {/each}
    </g>
    {#if drawn.spots.length <= 4}
      {#each drawn.spots as spot, i (i)}
        {@const right = labelX(spot.x) < box.x + box.width / 2}
        <text
          x={labelX(spot.x) + (right ? -size * 0.7 : size * 0.7)}
          y={spot.y + size * 0.3}
          style:font-size="{size}px"
          text-anchor={right ? 'end' : 'start'}>{pointName(spot.name, side)}</text
        >
      {/each}
    {/if}
  </svg>
{:else}
  <p class="soft text-sm">Read from events or by eye: there is nothing to draw.</p>
{/if}

<style>
  svg {
    width: 100%;
    max-height: 230px;
    background: var(--band);
  }
  .limb {
    stroke: var(--performer);
    stroke-width: 5;
    stroke-linecap: round;
    opacity: 0.38;
  }
  .head {
    fill: var(--performer);
    opacity: 0.38;
  }
  .head.partner {
    fill: var(--partner);
  }
  .limb.partner {
    stroke: var(--partner);
  }
  .read {
    fill: none;
    stroke: var(--ink);
    stroke-width: 3;
  }
  .spot {
    fill: var(--performer);
    stroke: var(--page);
    stroke-width: 2;
  }
  .spot.partner {
    fill: var(--partner);
  }
  text {
    fill: var(--ink);
    paint-order: stroke;
    stroke: var(--band);
    stroke-width: 4px;
  }
</style>
