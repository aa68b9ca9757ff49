<script lang="ts">
  import type { View } from '../../api/client'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
    /** The other clip, tied or about to be tied. */
    view: View
  }
  let { bench, view }: Props = $props()
  let video = $state<HTMLVideoElement>()
  const tied = $derived(view.aligned.length > 0)

  // The second player takes over its own element, and lets go when another view is chosen.
  $effect(() => (video ? bench.secondPlayer.attach(video, view.pts_s) : undefined))
  // A tied view steps along: the frame that shows the same instant.
  $effect(() => {
    const frame = view.aligned[bench.player.shown]
    if (frame !== undefined) bench.secondPlayer.go(frame)
  })
</script>

<div
  class="second"
  style="aspect-ratio: {view.width} / {view.height}; {view.height > view.width ? 'height: 52%' : 'width: 38%'}"
  data-testid="second-view"
>
  <video
    bind:this={video}
    class="h-full w-full"
    src="/api/clips/{view.id}/video"
    preload="auto"
    muted
    playsinline
    aria-label="Second view, frame {bench.secondPlayer.shown}"
  ></video>
  <p class="num">
    <span data-testid="second-frame">{bench.secondPlayer.shown}</span>
    {#if tied}<span title="Steps along with the first view">tied</span>
    {:else}<kbd>&lt;</kbd> <kbd>&gt;</kbd> to the same instant, then <kbd>T</kbd>{/if}
  </p>
</div>

<style>
  .second {
    position: absolute;
    right: 0;
    bottom: 0;
    border: 2px solid var(--page);
    background: var(--well);
  }
  .second p {
    position: absolute;
    left: 0;
    top: 0;
    padding: 0.05rem 0.4rem;
    background: rgb(20 24 26 / 0.85);
    color: #fff;
    font-size: 0.78rem;
  }
</style>
