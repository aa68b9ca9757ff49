<script lang="ts">
  import { midTime } from '../../player/frames'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const AROUND = [-2, -1, 0, 1, 2] as const
  const WIDE = 62
  const HIGH = 36
  /** So long the frame on screen must stand before its neighbours are fetched: stepping is not to be slowed. */
  const REST_MS = 140
  let video = $state.raw<HTMLVideoElement>()
  let canvases = $state<HTMLCanvasElement[]>([])
  const frames = $derived(AROUND.map((k) => bench.player.shown + k))
  const width = $derived(bench.clip.width ?? 16)
  const height = $derived(bench.clip.height ?? 9)

  /** What of the picture is shown: around the bodies' points where there are some, as wide as a thumbnail is. */
  const part = $derived.by(() => {
    const points = bench.points.shown
    const xs = points.map((point) => point.x)
    const ys = points.map((point) => point.y)
    const tall = points.length > 3 ? Math.min(height, (Math.max(...ys) - Math.min(...ys)) * 1.35) : height
    const wide = Math.min(
      width,
      Math.max(tall * (WIDE / HIGH), points.length > 3 ? Math.max(...xs) - Math.min(...xs) : 0),
    )
    const middle =
      points.length > 3
        ? { x: (Math.max(...xs) + Math.min(...xs)) / 2, y: (Math.max(...ys) + Math.min(...ys)) / 2 }
        : { x: width / 2, y: height / 2 }
    const high = Math.min(height, wide * (HIGH / WIDE))
    return {
      x: Math.max(0, Math.min(width - wide, middle.x - wide / 2)),
      y: Math.max(0, Math.min(height - high, middle.y - high / 2)),
      wide,
      high,
    }
  })

  /** Seek the hidden video to a frame and wait until it is there. */
  function sought(film: HTMLVideoElement, frame: number): Promise<void> {
    return new Promise((done) => {
      film.addEventListener('seeked', () => done(), { once: true })
      film.currentTime = midTime(bench.clip.pts_s, frame)
    })
  }
  async function draw(film: HTMLVideoElement, wanted: readonly number[], stale: () => boolean): Promise<void> {
    for (const [i, frame] of wanted.entries()) {
      if (frame < 0 || frame > bench.player.last) continue
      await sought(film, frame)
      const pen = canvases[i]?.getContext('2d')
      if (stale() || !pen) return
      const across = film.videoWidth / width
      const down = film.videoHeight / height
      pen.drawImage(
        film,
        part.x * across,
        part.y * down,
        part.wide * across,
        part.high * down,
        0,
        0,
        2 * WIDE,
        2 * HIGH,
      )
    }
  }
  // A film of its own beside the page: the one on screen is not to be moved.
  $effect(() => {
    const film = document.createElement('video')
    film.muted = true
    film.preload = 'auto'
    film.addEventListener('loadeddata', () => (video = film), { once: true })
    film.src = `/api/clips/${bench.clip.id}/video`
    return () => {
      video = undefined
      film.removeAttribute('src')
      film.load()
    }
  })
  // Drawn anew when the frame on screen has come to rest.
  $effect(() => {
    const wanted = frames
    const film = video
    if (!film || bench.player.playing) return
    let over = false
    const waiting = setTimeout(() => void draw(film, wanted, () => over), REST_MS)
    return () => {
      over = true
      clearTimeout(waiting)
    }
  })
</script>

<span class="flex gap-0.5" role="group" aria-label="Frames around this one" data-testid="neighbours">
  {#each frames as frame, i (i)}
    <button
      class="shot"
      class:here={i === 2}
      class:out={frame < 0 || frame > bench.player.last}
      title="frame {frame}"
      aria-label="frame {frame}"
      onclick={() => bench.player.go(frame)}
    >
      <canvas bind:this={canvases[i]} width={2 * WIDE} height={2 * HIGH} style="width: {WIDE}px; height: {HIGH}px"
      ></canvas>
    </button>
  {/each}
</span>

<style>
  .shot {
    display: block;
    line-height: 0;
    background: var(--well);
    outline: 1px solid var(--rule);
  }
  .shot.here {
    outline: 2px solid var(--alarm);
  }
  .shot.out {
    visibility: hidden;
  }
</style>
