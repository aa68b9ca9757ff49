<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, send, unwrap } from '../../api/client'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  /** Says that a technique was edited since this review, shows what would change, and judges anew on request. */
  let { bench }: { bench: Bench } = $props()
  const queries = useQueryClient()
  const found = createQuery(() => ({
    queryKey: ['newer', bench.review.id],
    queryFn: () =>
      unwrap(client.GET('/api/reviews/{review_id}/newer', { params: { path: { review_id: bench.review.id } } })),
    staleTime: 60_000,
  }))
  let open = $state(false)
  let failure = $state('')
  const names = $derived((found.data?.newer ?? []).map((entry) => entry.name).join(', '))

  async function again(): Promise<void> {
    try {
      bench.review = await send({ method: 'POST', path: `/reviews/${bench.review.id}/rejudge` })
      open = false
      await queries.invalidateQueries()
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }
</script>

{#if found.data && found.data.newer.length}
  <div class="px-4 py-2 text-sm" style="border-top: 1px solid var(--rule)" data-testid="newer">
    {names}: edited since this review began.
    <button class="underline" aria-expanded={open} onclick={() => (open = !open)}
      >{open ? 'Hide' : 'What would change?'}</button
    >
    {#if open}
      {#if found.data.differences.length}
        <ul class="my-1 max-h-32 overflow-auto">
          {#each found.data.differences as change (`${change.rep} ${change.checkpoint}`)}
            <li>
              <span class="num">rep {change.rep}</span>
              {spoken(change.checkpoint)}: {spoken(change.before ?? 'not there')} →
              <b class="font-semibold">{spoken(change.after ?? 'not there')}</b>
            </li>
          {/each}
        </ul>
      {:else}<p class="soft">No verdict would change.</p>{/if}
      <button class="button" onclick={again}>Judge by the newest version</button>
    {/if}
    {#if failure}<span role="alert" style="color: var(--alarm)">{failure}</span>{/if}
  </div>
{/if}
