<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap } from '../api/client'

  /** How long the coach worked on a review, to be corrected: Today plans with it. */
  let { review }: { review: string } = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const path = $derived({ params: { path: { review_id: review } } })
  const key = $derived(['worked', review])
  const worked = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/reviews/{review_id}/worked', path)),
  }))
  const change = (minutes: number) =>
    asking.run(async () => {
      const body = { total_s: 60 * Math.max(0, minutes) }
      queries.setQueryData(key, await unwrap(client.PUT('/api/reviews/{review_id}/worked', { ...path, body })))
    })
</script>

{#if worked.data}<p class="soft mt-2 text-sm">
    <label
      >You worked on it for <input
        class="field num w-16"
        type="number"
        min="0"
        max="6000"
        step="0.5"
        value={Math.round(worked.data.worked_s / 30) / 2}
        onchange={(event) => void change(Number(event.currentTarget.value))}
      /> minutes</label
    >. Today plans with it.
    {#if asking.failure}<span role="alert">{asking.failure}</span>{/if}
  </p>{/if}
