<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import Prescribe from './Prescribe.svelte'

  /** What to practise after a review: a drill for each thing to fix first, prescribed by one act. */
  let { review, student }: { review: string; student: string } = $props()
  const proposals = createQuery(() => ({
    queryKey: ['proposals', review],
    queryFn: () => unwrap(client.GET('/api/reviews/{review_id}/practice', { params: { path: { review_id: review } } })),
  }))
</script>

{#if proposals.data?.length}
  <section class="mt-6" aria-label="Practice">
    <h2>What to practise</h2>
    {#each proposals.data as one (`${one.technique}${one.fault}`)}
      <div class="rule-b py-3" data-fault={one.fault}>
        <p class="mb-2"><b>{one.ask}</b> <span class="soft text-sm">{one.reason}</span></p>
        <Prescribe
          {student}
          technique={one.technique}
          fault={one.fault}
          drills={one.drills}
          {review}
          prescribed={one.prescribed}
        />
      </div>
    {/each}
  </section>
{/if}
