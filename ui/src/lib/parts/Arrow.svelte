<script lang="ts">
  /** A correction's arrow, in picture pixels inside an SVG of the picture's size. */
  interface Props {
    from: { x: number; y: number }
    to: { x: number; y: number }
    /** Length of a screen pixel in picture pixels. @default 1 */
    scale?: number
  }
  let { from, to, scale = 1 }: Props = $props()
  const turn = $derived((Math.atan2(to.y - from.y, to.x - from.x) * 180) / Math.PI)
  const head = $derived(11 * scale)
</script>

<g data-arrow pointer-events="none">
  {#each [{ colour: '#14181a', wide: 7 }, { colour: '#ff8a66', wide: 4 }] as stroke (stroke.colour)}
    <line x1={from.x} y1={from.y} x2={to.x} y2={to.y} stroke={stroke.colour} stroke-width={stroke.wide * scale} stroke-linecap="round" />
    <path
      transform="translate({to.x} {to.y}) rotate({turn})"
      d="M{-head} {-head * 0.75}L0 0L{-head} {head * 0.75}"
      fill="none"
      stroke={stroke.colour}
      stroke-width={stroke.wide * scale}
      stroke-linecap="round"
      stroke-linejoin="round"
    />
  {/each}
</g>
