<script lang="ts">
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  /** One line that always says what is next, and what Enter does about it. */
  let { bench }: Props = $props()
  const step = $derived(bench.guide.step)
</script>

<div
  class="flex flex-wrap items-center gap-x-3 gap-y-0.5 px-2 pt-1 text-sm md:px-0"
  style="border-top: 1px solid var(--rule); min-height: 2.6rem"
  data-testid="next-event"
  role="group"
  aria-label="What is next"
>
  {#if bench.watching && !bench.review.finished_at}<span class="font-semibold">You may look.</span>
    <span class="soft">Coaches mark and finish reviews.</span>
  {:else if !step}<span class="font-semibold">Finished.</span>
    <span class="soft">This review is kept as it was.</span>
  {:else}
    <span aria-live="polite" class="min-w-0 flex-1 leading-tight" style="min-width: 12rem"
      ><b>{step.what}</b> <span class="soft">{step.more}</span></span
    >
    <span class="ml-auto flex flex-wrap items-center gap-x-3 gap-y-0.5">
      {#if step.enter}<button class="enter" onclick={() => bench.guide.enter()}
          ><kbd>Enter</kbd> {step.enter.does}</button
        >{/if}
      {#each step.others ?? [] as other (other.does)}<button onclick={other.run}
          >{#if other.key}<kbd>{other.key}</kbd>{/if}
          {other.does}</button
        >{/each}
      {#if step.skip}<button class="soft underline" onclick={step.skip}>Later</button>{/if}
    </span>
  {/if}
</div>

<style>
  .enter {
    font-weight: 650;
  }
  button:hover {
    text-decoration: underline;
  }
  /* A screen that is touched has no keys to name, and a finger needs more room. */
  @media (pointer: coarse) {
    kbd {
      display: none;
    }
    button {
      min-height: 2.4rem;
      padding-inline: 0.5rem;
      text-decoration: underline;
    }
  }
</style>
