<script lang="ts">
  import { sure } from '../parts/asked.svelte'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { longDay } from '../parts/words'

  /** What coaches noted about a student, by day. */
  let { student }: { student: string } = $props()
  const queries = useQueryClient()
  const key = $derived(['notes', student])
  const path = $derived({ params: { path: { student_id: student } } })
  const notes = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/notes', path)),
  }))
  let words = $state('')
  const asking = new Asking()

  const done = (answer: Promise<Schemas['NoteOut'][]>) =>
    asking.run(async () => queries.setQueryData(key, await answer))
  async function add(event: Event): Promise<void> {
    event.preventDefault()
    if (await done(unwrap(client.POST('/api/students/{student_id}/notes', { ...path, body: { words } })))) words = ''
  }
  async function remove(note: Schemas['NoteOut']): Promise<void> {
    if (await sure('Delete this note?', 'This cannot be undone.'))
      void done(
        unwrap(
          client.DELETE('/api/students/{student_id}/notes/{note_id}', {
            params: { path: { student_id: student, note_id: note.id } },
          }),
        ),
      )
  }
</script>

<section class="mt-8" aria-label="Notes">
  <h2>Notes</h2>
  <form class="mt-1 flex flex-wrap gap-2 text-sm" onsubmit={(event) => void add(event)}>
    <label class="grow"
      ><span class="sr-only">Note for today</span><input
        class="field w-full"
        maxlength="2000"
        bind:value={words}
        required
        placeholder="What is good to know the next time; for coaches only"
      /></label
    >
    <button class="button">Note</button>
  </form>
  {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
  <ul class="mt-1 text-sm">
    {#each notes.data ?? [] as note (note.id)}
      <li class="rule-b flex flex-wrap items-baseline gap-x-3 py-1.5">
        <span class="num soft">{longDay(note.noted_on)}</span> <span class="whitespace-pre-line">{note.words}</span>
        <span class="soft">{note.by}</span>
        <button class="ml-auto underline" onclick={() => remove(note)}>Delete</button>
      </li>
    {/each}
  </ul>
</section>
