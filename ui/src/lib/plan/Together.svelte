<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import { shareWords } from './words'

  /** With which drills and cues faults went away within six weeks, beside those who did without. */
  const found = createQuery(() => ({
    queryKey: ['together'],
    queryFn: () => unwrap(client.GET('/api/academy/practice')),
  }))
</script>

{#if found.data?.length}
  <h2 class="mt-8">What went together</h2>
  <p class="soft text-sm">
    In how many students a fault cleared within 42 days, with a drill or a cue and without it. Went together; which is
    not to say that it was the cause.
  </p>
  <div class="overflow-x-auto">
    <table class="mt-1 w-full text-sm" aria-label="What went together">
      <thead
        ><tr class="rule-b soft text-left text-xs"
          ><th class="py-1 pr-4 font-normal">Fault</th><th class="pr-4 font-normal">With</th><th
            class="pr-4 font-normal">cleared with it</th
          ><th class="font-normal">without it</th></tr
        ></thead
      >
      <tbody>
        {#each found.data.slice(0, 12) as one (`${one.kind}${one.what}${one.technique}${one.fault}`)}
          <tr class="rule-b align-top"
            ><td class="py-1 pr-4">{one.technique_name}: {one.ask}</td><td class="pr-4"
              >{one.kind === 'cue' ? `“${one.what}”` : one.what}</td
            ><td class="num pr-4">{shareWords({ count: one.cleared, of: one.of, interval: one.interval })}</td><td
              class="num"
              >{one.of_without
                ? shareWords({ count: one.cleared_without, of: one.of_without, interval: one.interval_without })
                : 'nobody'}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
{/if}
