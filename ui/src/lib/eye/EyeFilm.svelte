<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause'
  import Play from '@lucide/svelte/icons/play'
  import StepBack from '@lucide/svelte/icons/step-back'
  import StepForward from '@lucide/svelte/icons/step-forward'
  import { untrack } from 'svelte'
  import type { Schemas } from '../api/client'
  import { frameAt, midTime } from '../player/frames'
  import { say } from './say'

  /** A film of a question: it plays between two frames, or is stepped through; what is true may be drawn over its frame. */
  interface Props {
    film: Schemas['EyeFilmOut']
    src: string
    label: string
    from: number
    to: number
    /** Shown still on this frame. */
    still?: number | null
    frame?: number
    drawn?: readonly Schemas['EyeSpotOut'][]
    /** The frame that what is drawn belongs to. */
    drawnOn?: number | null
  }
  let {
    film,
    src,
    label,
    from,
    to,
    still = null,
    frame = $bindable(from),
    drawn = [],
    drawnOn = null,
  }: Props = $props()
  let video = $state<HTMLVideoElement>()
  let playing = $state(false)
  let failed = $state(false)
  const spots = $derived(drawnOn === frame && !playing ? drawn : [])

  export function show(next: number): void {
    video?.pause()
    frame = Math.max(from, Math.min(to, next))
    if (video) video.currentTime = midTime(film.pts_s, frame)
  }
  export const step = (by: number): void => {
    if (still == null) show(frame + by)
  }
  export function toggle(): void {
    if (!video || still != null) return
    if (playing) return show(frame)
    if (frame >= to) show(from)
    video.play().catch((error: unknown) => {
      // A film that was stopped before it had begun is no failure.
      if (!(error instanceof DOMException && error.name === 'AbortError')) failed = true
    })
  }

  // Another film, or another still, begins anew.
  $effect(() => {
    const begin = still ?? from
    void src
    if (video) untrack(() => show(begin))
  })
  function watch(): void {
    if (!video || !playing) return
    const now = frameAt(film.pts_s, video.currentTime)
    if (now >= to) {
      show(to)
      return
    }
    frame = Math.max(from, now)
    requestAnimationFrame(watch)
  }
</script>

<figure class="min-w-0">
  <div
    class="relative w-full"
    style="aspect-ratio: {film.width} / {film.height}; background: var(--well)"
    data-testid="eye-film"
    data-frame={frame}
  >
    <video
      bind:this={video}
      class="absolute inset-0 h-full w-full"
      {src}
      muted
      playsinline
      preload="auto"
      tabindex="-1"
      aria-label={label}
      onloadeddata={() => show(still ?? frame)}
      onplay={() => ((playing = true), requestAnimationFrame(watch))}
      onpause={() => (playing = false)}
      onended={() => show(to)}
      onerror={() => (failed = true)}
    ></video>
    {#if spots.length}
      <svg class="pointer-events-none absolute inset-0 h-full w-full" viewBox="0 0 {film.width} {film.height}">
        <polyline
          points={spots.map(({ x, y }) => `${x},${y}`).join(' ')}
          fill="none"
          stroke="#14181a"
          stroke-width="7"
          stroke-linejoin="round"
        />
        <polyline
          points={spots.map(({ x, y }) => `${x},${y}`).join(' ')}
          fill="none"
          stroke="#f4cf7c"
          stroke-width="3.5"
          stroke-linejoin="round"
        />
        {#each spots as { x, y }, i (i)}<circle
            cx={x}
            cy={y}
            r="6"
            fill="#f4cf7c"
            stroke="#14181a"
            stroke-width="2"
          />{/each}
      </svg>
    {/if}
    {#if failed}<p class="notice bad absolute inset-x-2 top-2 text-sm" role="alert">
        {say('This film could not be fetched. Go on with the next question.')}
      </p>{/if}
  </div>
  {#if still == null}
    <figcaption class="mt-1 flex items-center gap-2 text-sm">
      <button class="button" onclick={toggle} aria-label={playing ? say('Pause') : say('Play')}
        >{#if playing}<Pause size={16} aria-hidden="true" />{:else}<Play size={16} aria-hidden="true" />{/if}</button
      >
      <button class="button" onclick={() => step(-1)} aria-label={say('One frame back')}
        ><StepBack size={16} aria-hidden="true" /></button
      >
      <button class="button" onclick={() => step(1)} aria-label={say('One frame on')}
        ><StepForward size={16} aria-hidden="true" /></button
      >
      <input
        class="min-w-0 grow"
        type="range"
        min={from}
        max={to}
        value={frame}
        aria-label={say('Frame')}
        oninput={(event) => show(Number(event.currentTarget.value))}
      />
      <span class="num soft whitespace-nowrap"
        >{say('{number} of {all}', { number: frame - film.first + 1, all: film.last - film.first + 1 })}</span
      >
    </figcaption>
  {/if}
</figure>
