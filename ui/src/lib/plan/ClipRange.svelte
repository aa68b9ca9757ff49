<script lang="ts">
  import type { Clip } from '../api/client'
  import Filmstrip from '../review/strand/Filmstrip.svelte'

  /** Which part of a clip a round is: two thumbs under its filmstrip. Frames are kept; seconds of the file are shown. */
  interface Props {
    clip: Clip
    /** First and last frame. */
    range: [number, number]
    changed: (range: [number, number]) => void
  }
  let { clip, range, changed }: Props = $props()
  const STRIP = { width: 720, height: 56 }
  const last = $derived(Math.max(1, clip.frames_done - 1))
  const seconds = (frame: number) => `${(((clip.duration_s ?? 0) * frame) / last).toFixed(1)} s`
</script>

<div class="w-full" style="max-width: {STRIP.width}px" data-testid="clip-range">
  {#if clip.film}<div class="relative overflow-hidden" style="height: {STRIP.height}px; background: var(--well)">
      <Filmstrip clip={clip.id} film={clip.film} from={0} to={last} {...STRIP} />
      <div class="out absolute inset-y-0 left-0" style="width: {(100 * range[0]) / last}%"></div>
      <div class="out absolute inset-y-0 right-0" style="width: {100 - (100 * range[1]) / last}%"></div>
    </div>{/if}
  <!-- Two native thumbs: with the keyboard the one of the library lost its second thumb. -->
  <div class="thumbs" style="--from: {(100 * range[0]) / last}%; --to: {(100 * range[1]) / last}%">
    <input
      type="range"
      min="0"
      max={last}
      value={range[0]}
      aria-label="The round begins"
      aria-valuetext={seconds(range[0])}
      oninput={(event) => changed([Math.min(Number(event.currentTarget.value), range[1] - 1), range[1]])}
    />
    <input
      type="range"
      min="0"
      max={last}
      value={range[1]}
      aria-label="The round ends"
      aria-valuetext={seconds(range[1])}
      oninput={(event) => changed([range[0], Math.max(Number(event.currentTarget.value), range[0] + 1)])}
    />
  </div>
  <p class="soft mt-1 text-sm">
    The round lasts from <span class="num">{seconds(range[0])}</span> to
    <span class="num">{seconds(range[1])}</span> of the clip; what was cut outside of it does not count.
  </p>
</div>

<style>
  .thumbs {
    position: relative;
    height: 1.5rem;
    background: linear-gradient(var(--rule), var(--rule)) center / 100% 3px no-repeat;
  }
  .thumbs::before {
    content: '';
    position: absolute;
    top: calc(50% - 1.5px);
    left: var(--from);
    right: calc(100% - var(--to));
    height: 3px;
    background: var(--performer);
  }
  .thumbs input {
    position: absolute;
    inset: 0;
    width: 100%;
    appearance: none;
    background: none;
    pointer-events: none;
  }
  .thumbs input::-webkit-slider-thumb {
    appearance: none;
    width: 0.75rem;
    height: 1.25rem;
    background: var(--performer);
    cursor: ew-resize;
    pointer-events: auto;
  }
  .thumbs input::-moz-range-thumb {
    width: 0.75rem;
    height: 1.25rem;
    border: 0;
    border-radius: 0;
    background: var(--performer);
    cursor: ew-resize;
    pointer-events: auto;
  }
  .out {
    background: rgb(20 24 26 / 72%);
  }
</style>
