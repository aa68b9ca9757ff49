<script lang="ts">
  import { session } from '../lib/people/session.svelte'
  import { sure } from '../lib/parts/asked.svelte'
  import { createQuery, keepPreviousData, useQueryClient } from '@tanstack/svelte-query'
  import { onMount } from 'svelte'
  import { push } from 'svelte-spa-router'
  import { tinykeys } from 'tinykeys'
  import { client, unwrap, type Clip } from '../lib/api/client'
  import ClipRow from '../lib/clips/ClipRow.svelte'
  import { groups, neighbour } from '../lib/clips/list'
  import NamingLine from '../lib/clips/NamingLine.svelte'
  import Sending from '../lib/clips/Sending.svelte'
  import GoingFilms from '../lib/students/GoingFilms.svelte'
  import TakeIn from '../lib/clips/TakeIn.svelte'
  import { Uploads } from '../lib/clips/uploads.svelte'

  const queries = useQueryClient()
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  /** So many clips are listed: those not reviewed yet, then the newest. */
  const PAGE = 100
  let take = $state(PAGE)
  const clips = createQuery(() => ({
    queryKey: ['clips', take],
    queryFn: () => unwrap(client.GET('/api/clips', { params: { query: { take } } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      query.state.data?.some((clip) => clip.state === 'waiting' || clip.state === 'reading') ? 500 : false,
  }))
  const uploads = new Uploads(() => void queries.invalidateQueries({ queryKey: ['clips'] }))

  let failure = $state('')
  let hereId = $state<string | null>(null)
  let ticked = $state<ReadonlySet<string>>(new Set())
  /** The clips that are being named; the line is shown at the first. */
  let naming = $state<readonly string[]>([])
  const shown = $derived(groups(clips.data ?? []))
  const order = $derived(shown.flatMap((group) => group.clips))
  const here = $derived(order.find((clip) => clip.id === hereId))
  const named = $derived(naming.flatMap((id) => order.find((clip) => clip.id === id) ?? []))
  let now = $state(Date.now())
  $effect(() => {
    if (clips.dataUpdatedAt) now = Date.now()
  })

  async function act(work: Promise<unknown>): Promise<void> {
    failure = ''
    try {
      await work
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
    // A deleted clip takes its faults and corrections along.
    await queries.invalidateQueries()
  }
  const path = (clip: Clip) => ({ params: { path: { clip_id: clip.id } } })
  const stop = (clip: Clip) => act(unwrap(client.POST('/api/clips/{clip_id}/stop', path(clip))))
  const again = (clip: Clip) => act(unwrap(client.POST('/api/clips/{clip_id}/read-again', path(clip))))
  async function remove(clip: Clip): Promise<void> {
    if (
      await sure(
        `Delete “${clip.name}”?`,
        'Its review and everything made from it are deleted too. This cannot be undone.',
      )
    )
      void act(unwrap(client.DELETE('/api/clips/{clip_id}', path(clip))))
  }

  function go(clip: Clip | undefined): void {
    if (!clip) return
    hereId = clip.id
    document.getElementById(`clip-${clip.id}`)?.scrollIntoView({ block: 'nearest' })
  }
  function tick(clip: Clip): void {
    const next = new Set(ticked)
    if (!next.delete(clip.id)) next.add(clip.id)
    ticked = next
  }
  function name(clip: Clip | undefined): void {
    if (!clip) return
    hereId = clip.id
    naming = ticked.has(clip.id) ? order.filter(({ id }) => ticked.has(id)).map(({ id }) => id) : [clip.id]
  }
  /** After one is named, the next that is not is at hand. */
  async function saved(): Promise<void> {
    const done = new Set(naming)
    const next = order
      .slice(order.findIndex(({ id }) => id === naming[0]) + 1)
      .find((clip) => !done.has(clip.id) && shown[0]?.title === 'To be named' && shown[0].clips.includes(clip))
    ticked = new Set([...ticked].filter((id) => !done.has(id)))
    await queries.invalidateQueries()
    naming = next ? [next.id] : []
    go(next ?? here)
  }

  const free = (work: () => void) => (event: KeyboardEvent) => {
    const at = event.target
    if (at instanceof HTMLElement && at.matches('input:not([type=checkbox]), select, textarea, [contenteditable]'))
      return
    event.preventDefault()
    work()
  }
  onMount(() =>
    tinykeys(window, {
      ArrowDown: free(() => go(neighbour(order, hereId, 1))),
      ArrowUp: free(() => go(neighbour(order, hereId, -1))),
      x: free(() => here && tick(here)),
      n: free(() => name(here ?? order[0])),
      r: free(() => here?.state === 'ready' && here.student_id && void push(`/bench/${here.id}`)),
      Escape: free(() => (ticked = new Set())),
    }),
  )
</script>

<div class="mx-auto max-w-6xl px-5 py-5">
  <div class="flex flex-wrap items-baseline gap-x-5">
    <h1>Clips</h1>
    {#if order.length}
      <span class="soft ml-auto hidden text-sm md:inline">
        {#if ticked.size}<span class="font-semibold">{ticked.size} selected</span> · <kbd>N</kbd> on one of them names
          all · <kbd>Esc</kbd> unticks
        {:else}<kbd>↑</kbd> <kbd>↓</kbd> move &nbsp; <kbd>X</kbd> select &nbsp; <kbd>N</kbd> name &nbsp; <kbd>R</kbd> review{/if}
      </span>
    {/if}
  </div>
  <GoingFilms />
  <TakeIn {uploads} students={students.data ?? []} />
  <Sending {uploads} />
  {#if failure}<p class="notice bad mt-3" role="alert">{failure}</p>{/if}
  {#if clips.error}<p class="notice bad mt-4" role="alert">{clips.error.message}</p>{/if}
  {#each shown as group (group.title)}
    <h2 class="mt-6">
      {group.title} <span class="num soft text-sm font-normal">{group.clips.length}</span>
      <span class="soft ml-2 text-sm font-normal">{group.hint}</span>
    </h2>
    <ul class="mt-2" style="border-top: 2px solid var(--ink)">
      {#each group.clips as clip (clip.id)}
        <li
          id="clip-{clip.id}"
          class="rule-b px-2 py-2.5"
          class:here={clip.id === hereId}
          aria-current={clip.id === hereId}
          data-clip={clip.name}
        >
          {#if clip.id === naming[0]}
            <p class="soft text-sm">
              {named.length > 1
                ? `${named.length} clips: ${named.map((one) => one.name).join(', ')}`
                : `${clip.folder ? `${clip.folder}/` : ''}${clip.name}`}
            </p>
            {#key naming}<NamingLine clips={named} {saved} closed={() => (naming = [])} />{/key}
          {:else}
            <ClipRow
              {clip}
              {now}
              here={clip.id === hereId}
              ticked={ticked.has(clip.id)}
              tick={() => tick(clip)}
              name={() => name(clip)}
              stop={() => stop(clip)}
              again={() => again(clip)}
              remove={() => remove(clip)}
              changed={() => queries.invalidateQueries()}
            />
          {/if}
        </li>
      {/each}
    </ul>
  {:else}
    {#if clips.isSuccess}<p class="soft mt-6 py-4">
        No clips yet. Choose or drop a video. Once it has been read, name its student and technique; then it is ready to
        review.
      </p>
      {#if students.isSuccess && !students.data.length}<p>
          <b>Start with</b> <a class="underline" href="#/students">adding your students</a>{#if session.isOwner}, and
            <a class="underline" href="#/people">invite your coaches</a>{/if}.
        </p>{/if}{/if}
  {/each}
  {#if (clips.data?.length ?? 0) >= take}<button class="mt-3 underline" onclick={() => (take += PAGE)}
      >{PAGE} older clips</button
    >{/if}
</div>

<style>
  .here {
    background: var(--band);
    box-shadow: inset 3px 0 0 var(--performer);
  }
</style>
