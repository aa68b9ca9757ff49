<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import FilmStill from '../parts/FilmStill.svelte'
  import Glyph from '../parts/Glyph.svelte'
  import { longDay, shown, spoken } from '../parts/words'

  /** The same checkpoint in the first rep in which a fault was made and in a later one, side by side. */
  interface Props {
    student: string
    technique: string
    fault: string
  }
  let { student, technique, fault }: Props = $props()
  const found = createQuery(() => ({
    queryKey: ['before-after', student, technique, fault],
    queryFn: () =>
      unwrap(
        client.GET('/api/students/{student_id}/before-after', {
          params: { path: { student_id: student }, query: { of: technique, fault } },
        }),
      ),
  }))
  const pictures = $derived(
    [
      { name: 'before', picture: found.data?.before },
      { name: 'after', picture: found.data?.after },
    ].flatMap(({ name, picture }) => (picture ? [{ name, picture }] : [])),
  )
</script>

{#if pictures.length}
  <div class="mt-3 grid max-w-3xl gap-3 sm:grid-cols-2" data-testid="before-after">
    {#each pictures as { name, picture } (name)}
      <figure>
        <FilmStill
          {...picture}
          film={picture.has_film}
          label="{name}: {longDay(picture.filmed_on)}, {spoken(picture.verdict)}"
        />
        <figcaption class="mt-1 flex flex-wrap items-baseline gap-x-2">
          <b>{name}</b> <span class="num">{longDay(picture.filmed_on)}</span>
          <span class="inline-flex items-baseline gap-1"
            ><Glyph verdict={picture.verdict} size={12} />
            {spoken(picture.verdict)}{#if picture.value != null && picture.unit}, <span class="num"
                >{shown(picture.value, picture.unit)}{picture.uncertainty
                  ? ` ± ${shown(picture.uncertainty, picture.unit)}`
                  : ''}</span
              >{/if}</span
          >
          <a class="ml-auto underline" href="#/bench/{picture.clip}/{picture.rep}/{picture.checkpoint}"
            >{picture.side}, frame <span class="num">{picture.frame}</span></a
          >
        </figcaption>
      </figure>
    {/each}
    {#if pictures[0] && pictures[1]}<p class="sm:col-span-2">
        <a
          class="underline"
          href="#/compare/rep.{pictures[0].picture.rep}?side=rep.{pictures[1].picture.rep}&checkpoint={pictures[0]
            .picture.checkpoint}">Compare the two, moving</a
        >
      </p>{/if}
    {#if pictures.length === 1}<p class="soft self-center">No later rep of the same side yet.</p>{/if}
  </div>
{:else if found.isPending}<p class="soft mt-2">Looking for a picture of before and after…</p>{/if}
