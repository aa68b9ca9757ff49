<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import { longDay } from '../parts/words'
  import { session } from '../people/session.svelte'

  /** Films that are deleted soon, each to be kept by one click. */
  const queries = useQueryClient()
  const going = createQuery(() => ({
    queryKey: ['films-going'],
    queryFn: () => unwrap(client.GET('/api/films/going')),
  }))
  async function keep(clip: string): Promise<void> {
    const path = { params: { path: { clip_id: clip } } }
    queries.setQueryData(
      ['films-going'],
      await unwrap(client.PUT('/api/clips/{clip_id}/keep', { ...path, body: { keep: true } })),
    )
  }
</script>

{#if going.data?.length}
  <details class="notice mt-4" data-testid="films-going">
    <summary class="cursor-pointer font-semibold"
      >{going.data.length === 1 ? '1 film is' : `${going.data.length} films are`} deleted within two weeks. Verdicts and sheets
      stay.</summary
    >
    <ul class="mt-2">
      {#each going.data as film (film.clip)}
        <li class="flex flex-wrap items-baseline gap-x-4 py-1 text-sm">
          <span>{film.student ?? 'not named'}</span><span class="soft truncate">{film.name}</span>
          <span class="num">{longDay(film.goes_on)}</span>
          {#if session.mayReview}<button class="ml-auto underline" onclick={() => void keep(film.clip)}>Keep it</button
            >{/if}
        </li>
      {/each}
    </ul>
  </details>
{/if}
