<script lang="ts">
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const ask = (technique: string, id: string) =>
    bench.review.techniques.find((t) => t.id === technique)?.checkpoints.find((c) => c.id === id)?.ask ?? id
  const chosen = $derived(bench.review.fix_first.some((fix) => fix.why != null))
  let why = $state('')
  let field = $state<HTMLInputElement>()
  $effect(() => {
    if (bench.fixes.choosing) field?.focus()
  })
  function choose(event: SubmitEvent): void {
    event.preventDefault()
    if (!why.trim()) return
    bench.fixes.choose(why.trim())
    why = ''
  }
</script>

<section class="px-4 py-2" style="border-top: 2px solid var(--ink); background: var(--band)" aria-label="Fix first">
  <div class="flex items-baseline gap-3">
    <h2>Fix first</h2>
    {#if bench.review.corrections.length}<span class="soft text-sm"
        >{bench.review.corrections.length} correction{bench.review.corrections.length > 1 ? 's' : ''} drawn</span
      >{/if}
    {#if bench.fixes.can && !bench.fixes.choosing}<button
        class="ml-auto text-sm underline"
        onclick={() => (bench.fixes.choosing = true)}>this one first</button
      >{/if}
    {#if chosen && !bench.finished}<button
        class="text-sm underline"
        class:ml-auto={!bench.fixes.can || bench.fixes.choosing}
        onclick={() => bench.fixes.asRecommended()}>as recommended</button
      >{/if}
  </div>
  {#if bench.fixes.choosing}
    <form onsubmit={choose} class="my-1 flex gap-2 text-sm">
      <label class="flex-1"
        ><span class="sr-only">Why this one first</span><input
          bind:this={field}
          bind:value={why}
          class="field w-full"
          maxlength="400"
          required
          placeholder="Why “{bench.checkpoint?.ask ?? ''}” first?"
          onkeydown={(event) => event.key === 'Escape' && (bench.fixes.choosing = false)}
        /></label
      >
      <button class="button main">Choose</button>
    </form>
  {/if}
  <ol class="text-sm">
    {#each bench.review.fix_first as fix, i (fix.technique + fix.checkpoint)}
      <li class="flex gap-2">
        <span class="num font-semibold" style="color: var(--alarm)">{i + 1}</span><span
          ><b>{ask(fix.technique, fix.checkpoint)}</b>
          <span class="soft">{fix.why ? `your choice: ${fix.why} · ` : ''}{fix.reason}</span></span
        >
      </li>
    {:else}<li class="soft">Nothing missed yet. At most two missed checkpoints are listed here.</li>{/each}
  </ol>
  {#if chosen && bench.review.recommended[0]}<p class="soft text-xs">
      Recommended was: {bench.review.recommended.map((fix) => ask(fix.technique, fix.checkpoint)).join('; ')}.
    </p>{/if}
</section>
