<script lang="ts">
  import { Slider } from '@skeletonlabs/skeleton-svelte'
  import type { Clip } from '../api/client'
  import Filmstrip from '../review/strand/Filmstrip.svelte'

  /** Which part of a clip a round is: two thumbs over its filmstrip. Frames are kept; seconds of the file are shown. */
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
  <Slider
    min={0}
    max={last}
    minStepsBetweenThumbs={1}
    value={range}
    onValueChange={({ value }) => changed([value[0] ?? 0, value[1] ?? last])}
    aria-label={['The round begins', 'The round ends']}
    getAriaValueText={({ value }) => seconds(value)}
  >
    <Slider.Control>
      <Slider.Track><Slider.Range /></Slider.Track>
      {#each range as _, index (index)}<Slider.Thumb {index}><Slider.HiddenInput /></Slider.Thumb>{/each}
    </Slider.Control>
  </Slider>
  <p class="soft mt-1 text-sm">
    The round lasts from <span class="num">{seconds(range[0])}</span> to
    <span class="num">{seconds(range[1])}</span> of the clip; what was cut outside of it does not count.
  </p>
</div>

<style>
  .out {
    background: rgb(20 24 26 / 72%);
  }
</style>
