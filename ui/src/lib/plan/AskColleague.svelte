<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { session } from '../people/session.svelte'
  import { longDay } from '../parts/words'

  /** Another coach is asked by name for a second opinion on this review; it stands in that coach's day. */
  let { review }: { review: string } = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['colleagues', review])
  const found = createQuery(() => ({
    queryKey: key,
    queryFn: () =>
      unwrap(client.GET('/api/reviews/{review_id}/colleagues', { params: { path: { review_id: review } } })),
  }))
  const others = $derived((found.data ?? []).filter((one) => one.id !== session.coach?.id))
  const path = (account: string) => ({ params: { path: { review_id: review, account_id: account } } })
  const keep = (answer: Promise<Schemas['ColleagueOut'][]>) =>
    asking.run(async () => queries.setQueryData(key, await answer))
  const ask = (account: string) =>
    keep(unwrap(client.PUT('/api/reviews/{review_id}/colleagues/{account_id}', path(account))))
  const takeBack = (account: string) =>
    keep(unwrap(client.DELETE('/api/reviews/{review_id}/colleagues/{account_id}', path(account))))
</script>

{#if others.length}
  <section class="mt-5" aria-label="Second opinion">
    <h2>Second opinion</h2>
    <ul class="mt-1 text-sm">
      {#each others as one (one.id)}<li class="rule-b flex flex-wrap items-baseline gap-x-3 py-1.5">
          <span class="font-semibold">{one.name}</span>
          {#if one.given}<span class="soft ml-auto">has given it</span>
          {:else if one.asked_on}<span class="soft">asked on {longDay(one.asked_on)}</span>
            <button class="ml-auto underline" onclick={() => void takeBack(one.id)}>Take back</button>
          {:else}<button class="button ml-auto" onclick={() => void ask(one.id)}>Ask {one.name}</button>{/if}
        </li>{/each}
    </ul>
    <p class="soft mt-1 text-xs">Whoever is asked judges the same reps without seeing your verdicts.</p>
    {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
  </section>
{/if}
