<script lang="ts">
  import { FileUpload, Pagination } from '@skeletonlabs/skeleton-svelte'
  import ChevronLeft from '@lucide/svelte/icons/chevron-left'
  import ChevronRight from '@lucide/svelte/icons/chevron-right'
  import Plus from '@lucide/svelte/icons/plus'
  import StudentForm from '../lib/people/StudentForm.svelte'
  import { ageWords } from '../lib/people/units'
  import Toggle from '../lib/parts/Toggle.svelte'
  import { day, spoken } from '../lib/parts/words'
  import { found } from '../lib/parts/search'
  import Upload from '@lucide/svelte/icons/upload'
  import { tell } from '../lib/parts/told'
  import { createQuery, keepPreviousData, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'

  let archived = $state(false)
  let adding = $state(false)
  const students = createQuery(() => ({
    queryKey: ['roster', archived],
    queryFn: () => unwrap(client.GET('/api/roster', { params: { query: { archived } } })),
    placeholderData: keepPreviousData,
  }))
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
      (students.data ?? []).map((row) => ({
        ...row,
        value: row.student.id,
        label: row.student.name,
        also: row.student.groups,
      })),
      search,
    ),
  )
  const shown = $derived(all.slice((page - 1) * PAGE, page * PAGE))
  const today = new Date().toISOString().slice(0, 10)
</script>

<div class="mx-auto max-w-5xl px-5 py-6">
  <div class="flex flex-wrap items-center gap-4">
    <h1>Students</h1>
    <button class="button main" onclick={() => (adding = true)}
      ><Plus size={16} aria-hidden="true" /> Add a student</button
    >
    <span class="ml-auto"><Toggle label="Archived too" checked={archived} changed={(next) => (archived = next)} /></span
    >
    {#if (students.data?.length ?? 0) > 10}<input
        class="field w-56"
        type="search"
        placeholder="Find by name or group"
        aria-label="Find a student"
        bind:value={search}
        oninput={() => (page = 1)}
      />{/if}
  </div>
  {#if failure}<p class="notice bad mt-4" role="alert">{failure}</p>{/if}
  {#if students.error}<p class="notice bad mt-4" role="alert">{students.error.message}</p>{/if}
  {#if shown.length}
    <div class="overflow-x-auto">
      <table class="mt-4 w-full" style="border-top: 2px solid var(--ink)">
        <thead
          ><tr class="rule-b soft text-left text-xs"
            ><th class="py-1 font-normal">student</th><th class="px-3 font-normal">open faults</th><th
              class="px-3 font-normal">last filmed</th
            ><th class="px-3 font-normal max-sm:hidden">next clip due</th><th class="px-3 font-normal max-sm:hidden"
              >grade</th
            ><th class="px-3 font-normal max-sm:hidden">may be thrown</th></tr
          ></thead
        >
        <tbody>
          {#each shown as row (row.student.id)}
            <tr class="rule-b" data-student={row.student.name}>
              <td class="py-2.5"
                ><a class="font-semibold" href="#/students/{row.student.id}">{row.student.name}</a>
                <span class="soft ml-2 text-sm"
                  >{[
                    ageWords(row.student.born_on),
                    row.student.groups.join(', '),
                    row.student.archived_at && 'archived',
                  ]
                    .filter(Boolean)
                    .join(' · ')}</span
                ></td
              >
              <td class="px-3"
                >{#if row.open_faults}<span class="num">{row.open_faults}</span>{#if row.open_safety}<span
                      class="ml-2 text-sm"
                      style="color: var(--alarm)">▲ {row.open_safety} safety</span
                    >{/if}{:else}<span class="soft">–</span>{/if}</td
              >
              <td class="num px-3 whitespace-nowrap"
                >{row.last_filmed ? day(row.last_filmed) : ''}<span class="soft">{row.last_filmed ? '' : 'never'}</span
                ></td
              >
              <td class="num px-3 max-sm:hidden"
                >{#if row.due}<span style={row.due < today ? 'color: var(--alarm)' : ''}
                    >{day(row.due)}{row.due < today ? ', overdue' : ''}</span
                  >{:else}<span class="soft">–</span>{/if}</td
              >
              <td class="px-3 max-sm:hidden"
                >{row.grade ?? ''}{#if !row.grade}<span class="soft">–</span>{/if}</td
              >
              <td class="px-3 max-sm:hidden"
                >{#if row.thrown_on.length}{row.thrown_on.map(spoken).join(', ')}{:else}<span class="soft"
                    >no fall passed</span
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {:else if students.isSuccess}<p class="soft mt-4 py-4">
      {search ? 'No student has this name.' : 'No students yet. Add the first one, or import a list below.'}
    </p>{/if}
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

{#if adding}<StudentForm name={all.length ? '' : search} closed={() => (adding = false)} />{/if}

<style>
  :global(.page[data-selected]) {
    background: var(--performer);
    border-color: var(--performer);
    color: var(--page);
  }
</style>
