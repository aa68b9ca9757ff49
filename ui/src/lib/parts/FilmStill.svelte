<script lang="ts">
  import Shapes, { type Shape } from './Shapes.svelte'

  /** One frame of a clip's film with what was measured drawn on it. Where no film is kept, the drawing stands
   * alone; where there is none either, words. */
  interface Props {
    clip: string
    /** Seconds of the film, inside the frame. */
    time_s: number
    /** Pixels of the displayed picture. */
    width: number
    height: number
    shapes: readonly Shape[]
    /** @default true */
    film?: boolean
    label: string
  }
  let { clip, time_s, width, height, shapes, film = true, label }: Props = $props()
  let failed = $state(false)
  let video = $state<HTMLVideoElement>()
  /** Some browsers drop a seek that comes before the first picture, so it is asked for again as more is loaded. */
  function seek() {
    if (video && video.readyState >= 1 && Math.abs(video.currentTime - time_s) > 1e-3) video.currentTime = time_s
  }
  $effect(seek)
  /** A word or a ring alone, without the film behind it, is no picture. */
  const drawn = $derived(shapes.some((shape) => shape.shape === 'stroke'))
  /** Without a film the drawing is all there is: it is shown large, with some room around it. */
  const box = $derived.by(() => {
    const places =
      film && !failed
        ? []
        : shapes
            .flatMap((shape) => (shape.shape === 'stroke' ? shape.points : [shape.at]))
            .map(([x = 0, y = 0]) => [x, y] as const)
    if (places.length === 0) return { x: 0, y: 0, width, height }
    const [xs, ys] = [places.map(([x]) => x), places.map(([, y]) => y)]
    const tall =
      Math.max(Math.max(...ys) - Math.min(...ys), ((Math.max(...xs) - Math.min(...xs)) * height) / width, height / 6) *
      1.6
    const wide = (tall * width) / height
    return {
      x: (Math.min(...xs) + Math.max(...xs) - wide) / 2,
      y: (Math.min(...ys) + Math.max(...ys) - tall) / 2,
      width: wide,
      height: tall,
    }
  })
</script>

{#if !film && !drawn}
  <div
    class="soft flex w-full items-center justify-center px-6 text-center text-sm"
    style="border: 1px solid var(--rule); aspect-ratio: {width} / {height}"
    role="img"
    aria-label="{label}; no picture"
    data-testid="film-still"
  >
    No picture: the video of this rep is not stored.
  </div>
{:else}
  <div
    class="relative w-full overflow-hidden"
    style="background: var(--well); aspect-ratio: {width} / {height}"
    role="img"
    aria-label={label}
    data-testid="film-still"
  >
    {#if film && !failed}
      <video
        class="absolute inset-0 h-full w-full object-cover"
        src="/api/clips/{clip}/video"
        muted
        playsinline
        preload="auto"
        tabindex="-1"
        aria-hidden="true"
        bind:this={video}
        onloadedmetadata={seek}
        onloadeddata={seek}
        oncanplay={seek}
        onerror={() => (failed = true)}
      ></video>
    {:else}<span class="absolute top-1 left-2 text-xs" style="color: #cfcabd"
        >{failed ? 'the film cannot be shown' : 'no film is kept; what was measured'}</span
      >{/if}
    <svg class="absolute inset-0 h-full w-full" viewBox="{box.x} {box.y} {box.width} {box.height}" aria-hidden="true"
      ><Shapes {shapes} width={box.x + box.width} height={box.height} /></svg
    >
  </div>
{/if}
