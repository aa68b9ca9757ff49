<script lang="ts">
  import type { Traces } from '../../api/client'
  import { frameAt } from '../../player/frames'
  import { tracePath } from './strip'

  interface Props {
    traces: Traces
    /** Times of the frames, seconds of the file. */
    pts: readonly number[]
    /** Where a frame lies, pixels. */
    x: (frame: number) => number
    from: number
    to: number
    width: number
    /** Where the traces begin and how high they are together, pixels. */
    top: number
    height: number
  }
  let { traces, pts, x, from, to, width, top, height }: Props = $props()
  const hasSound = $derived(traces.sound.levels.length > 0)
  const each = $derived(hasSound ? height / 2 : height)
  const middle = $derived(top + each)

  /** A time of the file (seconds) as a place: between the frames around it. */
  function placeOf(time: number): number {
    const frame = frameAt(pts, time)
    const [at, next] = [pts[frame] ?? 0, pts[frame + 1]]
    return x(frame + (next === undefined || next <= at ? 0 : Math.max(0, Math.min(1, (time - at) / (next - at)))))
  }
  const step = $derived(traces.sound.step_s)
  const motion = $derived(tracePath(traces.motion, x, from, to, middle, each - 2))
  const sound = $derived(
    tracePath(
      traces.sound.levels,
      (k) => placeOf(k * step),
      (pts[from] ?? 0) / step,
      (pts[to] ?? 0) / step,
      top + height,
      each - 2,
    ),
  )
  const onsets = $derived(
    traces.onsets.filter((onset) => onset.time_s >= (pts[from] ?? 0) && onset.time_s <= (pts[to] ?? 0)),
  )
</script>

<g pointer-events="none">
  <path d={motion} fill="var(--soft)" fill-opacity="0.45" data-trace="motion"><title>How much moves</title></path>
  {#if hasSound}
    <path d={sound} fill="var(--performer)" fill-opacity="0.35" data-trace="sound"><title>Sound</title></path>
    {#each onsets as onset (onset.time_s)}
      {#if onset.voiced}<circle
          data-onset={onset.time_s}
          cx={placeOf(onset.time_s)}
          cy={middle - 1}
          r="3.2"
          fill="var(--page)"
          stroke="var(--performer)"
          stroke-width="1.5"><title>a call</title></circle
        >
      {:else}<path data-onset={onset.time_s} d="M{placeOf(onset.time_s)} {middle + 2}l4 -5h-8z" fill="var(--performer)"
          ><title>a knock or a slap</title></path
        >{/if}
      <line
        x1={placeOf(onset.time_s)}
        x2={placeOf(onset.time_s)}
        y1={middle}
        y2={top + height}
        stroke="var(--performer)"
        stroke-width="1"
      />
    {/each}
  {/if}
  <text
    x={width - 10}
    y={top + 9}
    text-anchor="end"
    font-size="9.5"
    fill="var(--soft)"
    stroke="var(--page)"
    stroke-width="3"
    paint-order="stroke">moves</text
  >
  {#if hasSound}<text
      x={width - 10}
      y={middle + 10}
      text-anchor="end"
      font-size="9.5"
      fill="var(--soft)"
      stroke="var(--page)"
      stroke-width="3"
      paint-order="stroke">sound</text
    >{/if}
</g>
