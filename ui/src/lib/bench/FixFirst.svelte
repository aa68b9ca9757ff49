<script lang="ts">
  import type { Bench } from './bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const ask = (technique: string, id: string) => bench.review.techniques.find((t) => t.id === technique)?.checkpoints.find((c) => c.id === id)?.ask ?? id
</script>

<section class="px-4 py-2" style="border-top: 2px solid var(--ink); background: var(--band)" aria-label="Fix first">
  <div class="flex items-baseline gap-3">
    <h2>Fix first</h2>
    {#if bench.review.corrections.length}<span class="soft text-sm">{bench.review.corrections.length} correction{bench.review.corrections.length > 1 ? 's' : ''} drawn</span>{/if}
  </div>
  <ol class="text-sm">
    {#each bench.review.fix_first as fix, i (fix.technique + fix.checkpoint)}
      <li class="flex gap-2"><span class="num font-semibold" style="color: var(--alarm)">{i + 1}</span><span><b>{ask(fix.technique, fix.checkpoint)}</b> <span class="soft">{fix.reason}</span></span></li>
    {:else}<li class="soft">Nothing missed yet. At most two of what is missed will stand here.</li>{/each}
  </ol>
</section>
