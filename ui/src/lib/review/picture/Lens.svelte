<script lang="ts">
  interface Props {
    video: HTMLVideoElement
    /** Size of the displayed picture, its pixels. */
    width: number
    height: number
    /** What the lens looks at, pixels of the displayed picture. */
    at: { x: number; y: number }
    /** The frame on screen: another one is drawn anew. */
    frame: number
  }
  let { video, width, height, at, frame }: Props = $props()
  let canvas = $state<HTMLCanvasElement>()
  const SIDE = 150
  /** How much larger than the picture's own pixels. */
  const TIMES = 4
  // In the corner away from the pointer.
  const left = $derived(at.x > width / 2)
  const top = $derived(at.y > height / 2)

  $effect(() => {
    void frame
    const pen = canvas?.getContext('2d')
    if (!pen || video.readyState < 2) return
    const across = video.videoWidth / width
    const down = video.videoHeight / height
    const half = SIDE / TIMES / 2
    pen.imageSmoothingEnabled = false
    pen.fillStyle = '#14181a'
    pen.fillRect(0, 0, SIDE, SIDE)
    pen.drawImage(
      video,
      (at.x - half) * across,
      (at.y - half) * down,
      2 * half * across,
      2 * half * down,
      0,
      0,
      SIDE,
      SIDE,
    )
  })
</script>

<div class="lens" style="{left ? 'left' : 'right'}: 8px; {top ? 'top' : 'bottom'}: 8px" aria-hidden="true">
  <canvas bind:this={canvas} width={SIDE} height={SIDE}></canvas>
  <svg viewBox="0 0 150 150" class="absolute inset-0"
    ><path d="M75 40V68M75 82V110M40 75H68M82 75H110" stroke="#14181a" stroke-width="3.5" /><path
      d="M75 40V68M75 82V110M40 75H68M82 75H110"
      stroke="#fff"
      stroke-width="1.4"
    /></svg
  >
</div>

<style>
  .lens {
    position: absolute;
    width: 150px;
    height: 150px;
    border: 2px solid #f6f2e9;
    pointer-events: none;
  }
</style>
