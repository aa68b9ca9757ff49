<script lang="ts">
  import type { Schemas } from '../api/client'
  import Shapes from './Shapes.svelte'

  interface Props {
    correction: Schemas['ShownCorrectionOut']
  }
  let { correction }: Props = $props()
  const example = $derived(correction.example?.ready ? correction.example : null)
  let moving = $state(false)
</script>

<div class="grid gap-1" class:grid-cols-2={example}>
  <figure
    class="relative w-full"
    style="background: var(--well); aspect-ratio: {correction.width} / {correction.height}"
  >
    {#if correction.has_still}
      <img
        class="absolute inset-0 h-full w-full"
        src="/api/corrections/{correction.id}/still"
        alt="Frame {correction.frame}: {correction.ask}"
      />
      <svg
        class="absolute inset-0 h-full w-full"
        viewBox="0 0 {correction.width} {correction.height}"
        aria-hidden="true"
      >
        <Shapes shapes={correction.shapes} width={correction.width} height={correction.height} />
      </svg>
    {:else}
      <figcaption class="p-4 text-sm" style="color: #cfcabd">
        {correction.still_failed ?? 'The picture is being drawn…'}
      </figcaption>
    {/if}
  </figure>
  {#if example}
    <figure
      class="relative w-full"
      style="background: var(--well); aspect-ratio: {example.width ?? 16} / {example.height ?? 9}"
    >
      {#if example.film && moving}
        <video
          class="absolute inset-0 h-full w-full"
          src="/api/corrections/{correction.id}/example/film"
          poster="/api/corrections/{correction.id}/example/picture"
          aria-label="{example.words}: done right, moving at half speed"
          controls
          autoplay
          loop
          muted
          playsinline
        ></video>
      {:else}
        <img
          class="absolute inset-0 h-full w-full"
          src="/api/corrections/{correction.id}/example/picture"
          alt="{example.words}: done right"
        />
        <svg
          class="absolute inset-0 h-full w-full"
          viewBox="0 0 {example.width ?? 16} {example.height ?? 9}"
          aria-hidden="true"
        >
          <Shapes shapes={example.shapes} width={example.width ?? 16} height={example.height ?? 9} />
        </svg>
      {/if}
      <figcaption
        class="absolute inset-x-0 top-0 px-2 py-0.5 text-xs"
        style="background: rgb(20 24 26 / 0.8); color: #fff"
      >
        {example.words}
        {#if example.film}<button class="ml-2 underline" onclick={() => (moving = !moving)}
            >{moving ? 'Show the picture' : 'See it move'}</button
          >{/if}
      </figcaption>
    </figure>
  {/if}
</div>
