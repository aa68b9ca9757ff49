<script lang="ts">
  import type { Schemas } from '../api/client'
  import Arrow from './Arrow.svelte'

  interface Props {
    correction: Schemas['ShownCorrectionOut']
  }
  let { correction }: Props = $props()
</script>

<figure class="relative w-full" style="background: var(--well); aspect-ratio: {correction.width} / {correction.height}">
  {#if correction.has_still}
    <img class="absolute inset-0 h-full w-full" src="/api/corrections/{correction.id}/still" alt="Frame {correction.frame}: {correction.ask}" />
    <svg class="absolute inset-0 h-full w-full" viewBox="0 0 {correction.width} {correction.height}" aria-hidden="true">
      <Arrow
        from={{ x: correction.from_x, y: correction.from_y }}
        to={{ x: correction.to_x, y: correction.to_y }}
        scale={correction.width / 480}
      />
    </svg>
  {:else}
    <figcaption class="p-4 text-sm" style="color: #cfcabd">The picture is being drawn…</figcaption>
  {/if}
</figure>
