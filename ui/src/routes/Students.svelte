<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'

  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const queries = useQueryClient()
  let failure = $state('')
  let told = $state('')

  /** Bring in a list (CSV) or one student's everything (ZIP). */
  async function bring(file: File | undefined): Promise<void> {
    if (!file) return
    failure = told = ''
    const whole = file.name.toLowerCase().endsWith('.zip')
    try {
      const response = await fetch(whole ? '/api/students/file' : '/api/students/list', { method: 'POST', body: file, headers: { 'Content-Type': whole ? 'application/zip' : 'text/csv' } })
      const data: unknown = await response.json()
      if (!response.ok) throw new Error((data as { message: string }).message)
      told = whole ? `${(data as { name: string }).name} was brought in; the films are being read.` : `${(data as unknown[]).length} students were added.`
      await queries.invalidateQueries()
    } catch (error) {
      failure = error instanceof Error ? error.message : 'The server cannot be reached. Nothing was changed.'
    }
  }
  const SIDES: Record<string, string> = { both: 'both sides', left: 'left side', right: 'right side' }
</script>

<div class="mx-auto max-w-3xl px-5 py-6">
  <h1>Students</h1>
  {#if failure}<p class="notice bad mt-4" role="alert">{failure}</p>{/if}
  {#if told}<p class="notice mt-4" role="status">{told}</p>{/if}
  {#if students.error}<p class="notice bad mt-4" role="alert">{students.error.message}</p>{/if}
  <ul class="mt-4" style="border-top: 1px solid var(--rule)">
    {#each students.data ?? [] as student (student.id)}
      <li class="rule-b">
        <a class="flex flex-wrap items-baseline gap-x-4 px-1 py-3" href="#/students/{student.id}">
          <span class="font-semibold">{student.name}</span>
          <span class="soft text-sm">{SIDES[student.side_policy]}</span>
          <span class="soft text-sm">{student.note}</span>
        </a>
      </li>
    {:else}
      {#if students.isSuccess}<li class="soft py-4">No students yet. The first is added when you take in a clip.</li>{/if}
    {/each}
  </ul>
  <label class="mt-4 block text-sm">Import a list (CSV: name, side_policy, note, email) or a student’s ZIP
    <input class="ml-2" type="file" accept=".csv,.zip" onchange={(event) => (void bring(event.currentTarget.files?.[0]), (event.currentTarget.value = ''))} />
  </label>
</div>
