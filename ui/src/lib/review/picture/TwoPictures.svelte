<script lang="ts">
  import type { Snippet } from 'svelte'
  import Eye from '@lucide/svelte/icons/eye'
  import type { Bench } from '../state/bench.svelte'
  import { SMALL } from '../state/twoViews.svelte'
  import SecondView from './SecondView.svelte'

  /** Room for the picture of the bench and, where there is one, the second view: small in a corner, as large beside it, or
   * hidden; swapped or not. The small one is dragged by its edge. */
  interface Props {
    bench: Bench
    /** Width over height of the first picture. */
    ratio: number
    children: Snippet
  }
  let { bench, ratio, children }: Props = $props()
  const GAP_PX = 6

  let roomWidth = $state(0)
  let roomHeight = $state(0)
  const views = $derived(bench.views)
  const second = $derived(bench.secondView)
  const layout = $derived(second ? views.layout : 'hidden')
  const secondRatio = $derived(second && second.height > 0 ? second.width / second.height : 1)

  interface Box {
    left: number
    top: number
    width: number
    height: number
  }
  /** As large as fits into a part of the room, in its middle. */
  function fitted(of: number, left: number, wide: number): Box {
    const width = Math.max(0, Math.min(wide, roomHeight * of))
    const height = width / of
    return { left: left + (wide - width) / 2, top: (roomHeight - height) / 2, width, height }
  }
  /** Small, within the large one's box. */
  function small(of: number, large: Box): Box {
    const width = Math.min(large.width * SMALL, large.height * 0.52 * of)
    const height = width / of
    return {
      left: large.left + views.x * (large.width - width),
      top: large.top + views.y * (large.height - height),
      width,
      height,
    }
  }
  const boxes = $derived.by((): { first: Box; second: Box } => {
    if (layout === 'beside') {
      const wide = (roomWidth - GAP_PX) / 2
      const [left, right] = [0, wide + GAP_PX]
      return {
        first: fitted(ratio, views.swapped ? right : left, wide),
        second: fitted(secondRatio, views.swapped ? left : right, wide),
      }
    }
    const [large, other] = views.swapped && layout === 'corner' ? [secondRatio, ratio] : [ratio, secondRatio]
    const whole = fitted(large, 0, roomWidth)
    const corner = small(other, whole)
    return views.swapped && layout === 'corner' ? { first: corner, second: whole } : { first: whole, second: corner }
  })
  const css = (box: Box) => `left: ${box.left}px; top: ${box.top}px; width: ${box.width}px; height: ${box.height}px`

  let held: { x: number; y: number; atX: number; atY: number } | null = null
  function take(event: PointerEvent): void {
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    held = { x: event.clientX, y: event.clientY, atX: views.x, atY: views.y }
  }
  function drag(event: PointerEvent): void {
    if (!held) return
    const [large, corner] = views.swapped ? [boxes.second, boxes.first] : [boxes.first, boxes.second]
    const [wide, tall] = [large.width - corner.width, large.height - corner.height]
    views.move(
      held.atX + (event.clientX - held.x) / Math.max(wide, 1),
      held.atY + (event.clientY - held.y) / Math.max(tall, 1),
    )
  }
  function drop(): void {
    if (held) views.drop()
    held = null
  }
  const isSmall = (which: 'first' | 'second') => layout === 'corner' && (which === 'first') === views.swapped
</script>

{#snippet edge()}
  <!-- The keyboard has the button that goes round the corners. -->
  <div
    class="edge"
    role="presentation"
    title="Drag to move"
    onpointerdown={take}
    onpointermove={drag}
    onpointerup={drop}
    onpointercancel={drop}
  ></div>
{/snippet}

<div
  bind:clientWidth={roomWidth}
  bind:clientHeight={roomHeight}
  class="relative h-full w-full overflow-hidden"
  style="background: var(--well)"
  data-layout={layout}
>
  <div class="view" class:small={isSmall('first')} style={css(boxes.first)} data-testid="first-view">
    {@render children()}
    {#if isSmall('first')}{@render edge()}{/if}
  </div>
  {#if second && layout !== 'hidden'}
    <div class="view" class:small={isSmall('second')} style={css(boxes.second)} data-testid="second-view">
      <SecondView {bench} view={second} />
      {#if isSmall('second')}{@render edge()}{/if}
    </div>
  {:else if second}
    <button class="bring" title="Show the second view (⇧T)" onclick={() => views.show('corner')}
      ><Eye size={15} aria-hidden="true" /> Second view</button
    >
  {/if}
</div>

<style>
  .view {
    position: absolute;
  }
  .view.small {
    z-index: 2;
    outline: 2px solid var(--page);
    background: var(--well);
  }
  .edge {
    position: absolute;
    inset: -7px;
    border: 10px solid transparent;
    cursor: move;
    touch-action: none;
    /* Only the border takes the pointer: the picture within stays as it is. */
    clip-path: polygon(
      evenodd,
      0 0,
      100% 0,
      100% 100%,
      0 100%,
      0 0,
      10px 10px,
      calc(100% - 10px) 10px,
      calc(100% - 10px) calc(100% - 10px),
      10px calc(100% - 10px),
      10px 10px
    );
  }
  .bring {
    position: absolute;
    right: 8px;
    top: 8px;
    display: flex;
    align-items: center;
    gap: 0.3rem;
    padding: 0.2rem 0.6rem;
    background: rgb(20 24 26 / 0.85);
    color: #fff;
    font-size: 0.85rem;
    cursor: pointer;
  }
</style>
