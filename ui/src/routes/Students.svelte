<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'

  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const SIDES: Record<string, string> = { both: 'both sides', left: 'left side', right: 'right side' }
</script>

<div class="mx-auto max-w-3xl px-5 py-6">
  <h1>Students</h1>
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
</div>
