<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import { longDay } from '../parts/words'
  import RoundNumbers from './RoundNumbers.svelte'

  /** The rounds and games of a student, the newest first. */
  let { student }: { student: string } = $props()
  const partner = (one: Schemas['RoundOut']) => (one.student === student ? one.other_name : one.student_name)
  const rounds = createQuery(() => ({
    queryKey: ['rounds', student],
    queryFn: () => unwrap(client.GET('/api/rounds', { params: { query: { student } } })),
  }))
</script>

{#if rounds.data?.length}
  <section class="mt-8" aria-label="Rounds and games">
    <h2>Rounds and games</h2>
    {#each rounds.data.slice(0, 3) as one (one.id)}
      <div class="rule-b py-2">
        <p>
          {one.objective}
          <span class="soft num text-sm">{longDay(one.held_on)}{partner(one) ? ` with ${partner(one)}` : ''}</span>
        </p>
        <RoundNumbers round={one} />
      </div>
    {/each}
  </section>
{/if}
