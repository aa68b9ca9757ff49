<script lang="ts" module>
  import type { Schemas } from '../api/client'

  export type Shape = Schemas['Stroke'] | Schemas['Ring'] | Schemas['Label']
  const INK = '#14181a'
  const COLOURS = { seen: '#ffffff', wanted: '#9fe08a', push: '#ff8a66', look: '#ffc861' }
  const LINE = 1.8
  const OUTLINE = 3.2
  const HEAD = 5.2

  /** The arrowheads of a stroke, as points of open polylines. */
  export function heads(stroke: Schemas['Stroke'], size: number): string[] {
    const { points, head } = stroke
    const ends: [number[], number[]][] = []
    const [a, b] = [points.at(-2), points.at(-1)]
    if ((head === 'end' || head === 'both') && a && b) ends.push([a, b])
    const [first, second] = points
    if (head === 'both' && first && second) ends.push([second, first])
    return ends.map(([from, tip]) => {
      const [x = 0, y = 0] = tip
      const turn = Math.atan2(y - (from[1] ?? 0), x - (from[0] ?? 0))
      const wing = (side: number) => `${x - size * Math.cos(turn + side)},${y - size * Math.sin(turn + side)}`
      return `${wing(0.6)} ${x},${y} ${wing(-0.6)}`
    })
  }
</script>

<script lang="ts">
  /** Drawn shapes in an SVG of the picture's size, as the server works them out: the sheet and the marked clip
   * look the same. */
  interface Props {
    shapes: readonly Shape[]
    width: number
    height: number
    faint?: boolean
  }
  let { shapes, width, height, faint = false }: Props = $props()
  const unit = $derived(height / 300)
  const dash = (role: Shape['role']) => (role === 'wanted' ? `${4 * unit} ${3.4 * unit}` : null)
</script>

<g data-shapes pointer-events="none" opacity={faint ? 0.45 : 1} stroke-linecap="round" stroke-linejoin="round">
  {#each shapes as shape, i (i)}
    {#if shape.shape === 'stroke'}
      {#each [{ tint: INK, wide: OUTLINE }, { tint: COLOURS[shape.role], wide: LINE }] as { tint, wide } (wide)}
        <polyline
          points={shape.points.map(([x = 0, y = 0]) => `${x},${y}`).join(' ')}
          fill="none"
          stroke={tint}
          stroke-width={wide * unit}
          stroke-dasharray={dash(shape.role)}
          data-role={shape.role}
        />
        {#each heads(shape, HEAD * unit) as head (head)}<polyline
            points={head}
            fill="none"
            stroke={tint}
            stroke-width={wide * unit}
          />{/each}
      {/each}
    {:else if shape.shape === 'ring'}
      {#each [{ tint: INK, wide: OUTLINE }, { tint: COLOURS[shape.role], wide: LINE }] as { tint, wide } (wide)}
        <circle
          cx={shape.at[0]}
          cy={shape.at[1]}
          r={shape.radius}
          fill="none"
          stroke={tint}
          stroke-width={wide * unit}
          stroke-dasharray={dash(shape.role)}
          data-role={shape.role}
        />
      {/each}
    {:else}
      {@const [x = 0, y = 0] = shape.at}
      {@const inwards = x > 0.62 * width}
      <text
        x={x + (inwards ? -6 : 6) * unit}
        {y}
        text-anchor={inwards ? 'end' : 'start'}
        fill="#fff"
        stroke={INK}
        stroke-width={3 * unit}
        paint-order="stroke"
        font-size={13 * unit}
        font-weight="600">{shape.words}</text
      >
    {/if}
  {/each}
</g>
