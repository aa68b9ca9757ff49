<script lang="ts">
  import { FileUpload, Pagination } from '@skeletonlabs/skeleton-svelte'
  import ChevronLeft from '@lucide/svelte/icons/chevron-left'
  import ChevronRight from '@lucide/svelte/icons/chevron-right'
  import { found } from '../lib/parts/search'
  import Upload from '@lucide/svelte/icons/upload'
  import { tell } from '../lib/parts/told'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'

  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const queries = useQueryClient()
  let failure = $state('')

  /** Bring in a list (CSV) or one student's everything (ZIP). */
  async function bring(file: File | undefined): Promise<void> {
    if (!file) return
    failure = ''
    const whole = file.name.toLowerCase().endsWith('.zip')
    try {
      const response = await fetch(whole ? '/api/students/file' : '/api/students/list', {
        method: 'POST',
        body: file,
        headers: { 'Content-Type': whole ? 'application/zip' : 'text/csv' },
      })
      const data: unknown = await response.json()
      if (!response.ok) throw new Error((data as { message: string }).message)
      tell(
        whole
          ? `${(data as { name: string }).name} was imported. The clips are being read.`
          : `${(data as unknown[]).length} students were added.`,
      )
      await queries.invalidateQueries()
    } catch (error) {
      failure = error instanceof Error ? error.message : 'The server cannot be reached. Nothing was changed.'
    }
  }
  const PAGE = 40
  let search = $state('')
  let page = $state(1)
  const all = $derived(
    found(
      (students.data ?? []).map((one) => ({ ...one, value: one.id, label: one.name })),
      search,
    ),
  )
  const shown = $derived(all.slice((page - 1) * PAGE, page * PAGE))
  const SIDES: Record<string, string> = { both: 'both sides', left: 'left side', right: 'right side' }
</script>

<div class="mx-auto max-w-3xl px-5 py-6">
  <div class="flex flex-wrap items-baseline gap-4">
    <h1>Students</h1>
    {#if (students.data?.length ?? 0) > 10}<input
        class="field ml-auto w-56"
        type="search"
        placeholder="Find by name"
        aria-label="Find a student"
        bind:value={search}
        oninput={() => (page = 1)}
      />{/if}
  </div>
  {#if failure}<p class="notice bad mt-4" role="alert">{failure}</p>{/if}
  {#if students.error}<p class="notice bad mt-4" role="alert">{students.error.message}</p>{/if}
  <ul class="mt-4" style="border-top: 1px solid var(--rule)">
    {#each shown as student (student.id)}
      <li class="rule-b">
        <a class="flex flex-wrap items-baseline gap-x-4 px-1 py-3" href="#/students/{student.id}">
          <span class="font-semibold">{student.name}</span>
          <span class="soft text-sm">{SIDES[student.side_policy]}</span>
          <span class="soft text-sm">{student.note}</span>
        </a>
      </li>
    {:else}
      {#if students.isSuccess && search}<li class="soft py-4">No student has this name.</li>
      {:else if students.isSuccess}<li class="soft py-4">
          No students yet. Name a clip to add the first one, or import a list.
        </li>{/if}
    {/each}
  </ul>
  {#if all.length > PAGE}
    <Pagination
      class="mt-4 flex items-center gap-1"
      count={all.length}
      pageSize={PAGE}
      {page}
      onPageChange={(details) => (page = details.page)}
    >
      <Pagination.PrevTrigger class="button" aria-label="Page before"
        ><ChevronLeft size={16} aria-hidden="true" /></Pagination.PrevTrigger
      >
      <Pagination.Context>
        {#snippet children(pages)}
          {#each pages().pages as one, i (i)}
            {#if one.type === 'page'}<Pagination.Item {...one} class="button num page">{one.value}</Pagination.Item>
            {:else}<Pagination.Ellipsis index={i}>…</Pagination.Ellipsis>{/if}
          {/each}
        {/snippet}
      </Pagination.Context>
      <Pagination.NextTrigger class="button" aria-label="Next page"
        ><ChevronRight size={16} aria-hidden="true" /></Pagination.NextTrigger
      >
    </Pagination>
  {/if}
  <FileUpload
    class="mt-4 flex flex-wrap items-center gap-3 text-sm"
    maxFiles={1}
    onFileAccept={(details) => void bring(details.files[0])}
  >
    <FileUpload.Trigger class="button"><Upload size={16} aria-hidden="true" /> Import students</FileUpload.Trigger>
    <FileUpload.HiddenInput data-testid="students-file" />
    <span class="soft">A list (CSV: name, side_policy, note, email) or one student’s ZIP</span>
  </FileUpload>
</div>

<style>
  :global(.page[data-selected]) {
    background: var(--performer);
    border-color: var(--performer);
    color: var(--page);
  }
</style>
