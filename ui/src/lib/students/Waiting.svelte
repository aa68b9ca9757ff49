<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'

  /** How much waits in the inbox, as a badge. */
  const waiting = createQuery(() => ({
    queryKey: ['inbox', 'waiting'],
    queryFn: () => unwrap(client.GET('/api/inbox/waiting')),
    refetchInterval: 10_000,
  }))
  const count = $derived(waiting.data?.waiting ?? 0)
</script>

{#if count}<span class="badge num" data-testid="inbox-waiting">{count}<span class="sr-only"> waiting</span></span>{/if}

<style>
  .badge {
    min-width: 1.25rem;
    padding: 0 0.3rem;
    border-radius: 0.7rem;
    background: var(--alarm);
    color: #fff;
    font-size: 0.75rem;
    font-weight: 650;
    line-height: 1.25rem;
    text-align: center;
  }
</style>
