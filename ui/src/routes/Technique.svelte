<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'
  import { longDay } from '../lib/parts/words'
  import Card from '../lib/techniques/Card.svelte'

  let { params }: { params: { technique: string } } = $props()
  const path = $derived({ params: { path: { technique_id: params.technique } } })
  const lesson = createQuery(() => ({
    queryKey: ['lesson', params.technique],
    queryFn: () => unwrap(client.GET('/api/techniques/{technique_id}', path)),
  }))
  const drawn = createQuery(() => ({
    queryKey: ['drawn', params.technique],
    queryFn: () => unwrap(client.GET('/api/techniques/{technique_id}/drawn', path)),
    staleTime: Infinity,
  }))
  const reps = createQuery(() => ({
    queryKey: ['reps of technique', params.technique],
    queryFn: () => unwrap(client.GET('/api/techniques/{technique_id}/comparable', path)),
  }))
</script>

<div class="mx-auto max-w-5xl px-5 py-6">
  <nav class="mb-4 flex flex-wrap items-center gap-4 text-sm print:hidden" aria-label="Technique">
    <a class="underline" href="#/techniques">All techniques</a>
    <span class="ml-auto"></span>
    <button class="button" onclick={() => window.print()}>Print</button>
    <a class="button" href="/api/techniques/{params.technique}/file" download="{params.technique}.yaml">Export</a>
    <a class="button" href="#/techniques/{params.technique}/edit"
      >{lesson.data?.own ? 'Edit' : 'Make our own version'}</a
    >
  </nav>
  {#if lesson.error}<p class="notice bad" role="alert">{lesson.error.message}</p>{/if}
  {#if lesson.data}
    {#if lesson.data.own}<p class="soft mb-2 text-sm">
        The academy’s own version <span class="num">{lesson.data.version}</span>. Earlier reviews keep the version that
        they were judged by.
      </p>{/if}
    {#key params.technique}<Card lesson={lesson.data} drawn={drawn.data ?? []} />{/key}
    {#if reps.data?.length}
      <section class="mt-6 print:hidden" aria-label="Reps of this technique">
        <h2>See it beside a rep</h2>
        <p class="soft text-sm">Model reps and the newest film of each student, moving beside the studio’s move.</p>
        <ul class="mt-1 flex flex-wrap gap-x-6 gap-y-1 text-sm">
          {#each reps.data as rep (rep.key)}<li>
              <a class="underline" href="#/compare/{rep.key}?side=studio.{rep.side}"
                >{rep.student}, {rep.filmed_on ? longDay(rep.filmed_on) : ''}, {rep.side}</a
              >
              <span class="soft">{rep.why === 'model' ? `model ${rep.words}` : ''}</span>
            </li>{/each}
        </ul>
      </section>
    {/if}
  {:else if lesson.isPending}<p class="soft">Opening…</p>{/if}
</div>
