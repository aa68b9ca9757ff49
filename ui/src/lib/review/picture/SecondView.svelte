<script lang="ts">
  import ArrowLeftRight from '@lucide/svelte/icons/arrow-left-right'
  import Columns2 from '@lucide/svelte/icons/columns-2'
  import EyeOff from '@lucide/svelte/icons/eye-off'
  import Move from '@lucide/svelte/icons/move'
  import PictureInPicture2 from '@lucide/svelte/icons/picture-in-picture-2'
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
  const views = $derived(bench.views)

  // The second player takes over its own element, and lets go when another view is chosen.
  $effect(() => (video ? bench.secondPlayer.attach(video, view.pts_s) : undefined))
  // A tied view steps along: the frame that shows the same instant.
  $effect(() => {
    const frame = view.aligned[bench.player.shown]
    if (frame !== undefined) bench.secondPlayer.go(frame)
  })

  const BUTTONS = $derived([
    {
      name: views.layout === 'beside' ? 'One view large' : 'Both views as large',
      icon: views.layout === 'beside' ? PictureInPicture2 : Columns2,
      act: () => views.show(views.layout === 'beside' ? 'corner' : 'beside'),
    },
    { name: 'Swap the two views', icon: ArrowLeftRight, act: () => views.swap() },
    { name: 'Hide the second view', icon: EyeOff, act: () => views.show('hidden') },
  ])
</script>

<video
  bind:this={video}
  class="h-full w-full"
  src="/api/clips/{view.id}/video"
  preload="auto"
  muted
  playsinline
  aria-label="Second view, frame {bench.secondPlayer.shown}"
></video>
<p class="num told">
  <span data-testid="second-frame">{bench.secondPlayer.shown}</span>
  {#if tied}<span title="Steps along with the first view">tied</span>
  {:else}<kbd>&lt;</kbd> <kbd>&gt;</kbd> to the same instant, then <kbd>T</kbd>{/if}
</p>
<div class="acts" role="group" aria-label="How the two views lie">
  {#if views.layout === 'corner'}
    <button
      title="Drag a view by its edge; this moves it to the next corner"
      aria-label="Move to the next corner"
      onclick={() => views.turn()}><Move size={15} aria-hidden="true" /></button
    >
  {/if}
  {#each BUTTONS as button (button.name)}
    <button title={button.name} aria-label={button.name} onclick={button.act}
      ><button.icon size={15} aria-hidden="true" /></button
    >
  {/each}
</div>

<style>
  .told,
  .acts {
    position: absolute;
    top: 0;
    background: rgb(20 24 26 / 0.85);
    color: #fff;
    font-size: 0.78rem;
  }
  .told {
    left: 0;
    padding: 0.05rem 0.4rem;
    pointer-events: none;
  }
  .acts {
    right: 0;
    display: flex;
  }
  .acts button {
    min-width: 24px;
    min-height: 24px;
    padding: 0.2rem;
    cursor: pointer;
  }
</style>
