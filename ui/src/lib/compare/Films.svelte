<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import JobProgress from '../jobs/JobProgress.svelte'
  import { runs } from '../jobs/jobs'
  import { seconds } from '../parts/words'
  import { session } from '../people/session.svelte'

  /** Films of comparisons on a sheet; with `film` one can be made of what is compared now. */
  interface Props {
    review: string
    film?: {
      rep: string
      sides: string[]
      anchor: string
      stretched: boolean
      speed: number
      drawn: boolean
      over: boolean
      mirrored: boolean
    }
  }
  let { review, film }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['films', review])
  let words = $state('')
  const found = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/reviews/{review_id}/films', { params: { path: { review_id: review } } })),
    refetchInterval: (query) => (query.state.data?.some((one) => runs(one.job)) ? 700 : false),
  }))
  const keep = (films: Schemas['FilmOut'][]) => void queries.setQueryData(key, films)
  const again = () => queries.invalidateQueries({ queryKey: key })
  /** The paces that a film runs at; the slowest of the screen is slower than any of them. */
  const pace = $derived(Math.max(film?.speed ?? 0.5, 0.25))
  let busy = $state(false)
  async function make(): Promise<void> {
    busy = true
    await asking.run(async () => {
      if (!film) return
      const { rep, ...shown } = film
      const body = { ...shown, speed: pace, words }
      keep(await unwrap(client.POST('/api/reps/{rep_id}/films', { params: { path: { rep_id: rep } }, body })))
      words = ''
    })
    busy = false
  }
  const remove = (id: string) =>
    asking.run(async () =>
      keep(await unwrap(client.DELETE('/api/films/{film_id}', { params: { path: { film_id: id } } }))),
    )
  const PACES: Record<string, string> = { '0.25': 'a quarter of the pace', '0.5': 'half the pace', '1': 'full pace' }
</script>

<div class="text-sm" data-testid="films">
  {#if film && session.mayReview}
    <form class="flex flex-wrap items-end gap-2" onsubmit={(event) => (event.preventDefault(), void make())}>
      <label class="min-w-56 grow"
        >Words under the film <span class="soft">(optional)</span><input
          class="field w-full"
          maxlength="200"
          bind:value={words}
        /></label
      >
      <button class="button main" disabled={busy}>Put a film on the sheet</button>
      <span class="soft basis-full"
        >As they are shown now{film.over ? ', one over the other' : ', side by side'}{film.drawn
          ? ' with drawn bodies'
          : ''}, at {PACES[String(pace)]}. It stops for a moment at the event.</span
      >
    </form>
  {/if}
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  {#if found.error}<p class="notice bad mt-2" role="alert">{found.error.message}</p>{/if}
  <ul class="mt-2">
    {#each found.data ?? [] as one (one.id)}
      <li class="rule-b flex flex-wrap items-center gap-x-4 gap-y-1 py-1.5" data-film={one.id}>
        {#if one.seconds != null}
          <a class="underline" href="/api/films/{one.id}/film.mp4" target="_blank" rel="noreferrer"
            >{one.words || 'Film of the comparison'}</a
          >
          <span class="soft num">{seconds(one.seconds)}, {PACES[String(one.speed)]}</span>
          <span class="soft"
            >{one.shown
              ? 'on the sheet and the student’s page'
              : 'not shown: somebody in it does not agree to be shown to others'}</span
          >
          <a class="underline" href="/api/films/{one.id}/film.mp4" download="comparison.mp4">Download</a>
        {:else if one.job}<JobProgress job={one.job} changed={again} />{/if}
        {#if session.mayReview}<button
            class="ml-auto"
            aria-label="Delete the film {one.words}"
            title="Delete"
            onclick={() => void remove(one.id)}><Trash size={15} aria-hidden="true" /></button
          >{/if}
      </li>
    {/each}
  </ul>
</div>
