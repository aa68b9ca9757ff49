<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'
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
  {:else if lesson.isPending}<p class="soft">Opening…</p>{/if}
</div>
