<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { moment } from '../parts/words'
  import FloorPad from './FloorPad.svelte'

  /** What was seen and asked on the floor about a student. */
  let { student, name }: { student: string; name: string } = $props()
  const KINDS = { fault: 'fault', good: 'good', remark: 'remark', question: 'asked', film: 'to be filmed' } as Record<
    string,
    string
  >
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['floor', student])
  const notes = createQuery(() => ({
    queryKey: key,
    queryFn: () =>
      unwrap(client.GET('/api/students/{student_id}/floor', { params: { path: { student_id: student } } })),
    refetchInterval: 15_000,
  }))
  const doing = (work: Promise<unknown>) =>
    asking.run(async () => {
      await work
      await queries.invalidateQueries({ queryKey: key })
    })
  const at = (note: Schemas['FloorOut']) => ({ params: { path: { note_id: note.id } } })
  const open = (note: Schemas['FloorOut']) => (note.kind === 'question' || note.kind === 'film') && !note.done_at
</script>

<section class="mt-8" aria-label="Seen on the floor">
  <h2>Seen on the floor</h2>
  <p class="soft text-sm">Notes of a class. They are not counted in the table of faults.</p>
  {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
  <ul class="mt-1 text-sm">
    {#each (notes.data ?? []).slice(0, 12) as note (note.id)}
      <li class="rule-b flex flex-wrap items-baseline gap-x-3 py-1.5" data-floor={note.kind}>
        <span class="num soft">{moment(note.noted_at)}</span>
        <b style:color={note.kind === 'fault' ? 'var(--alarm)' : null}>{KINDS[note.kind]}</b>
        <span>{note.ask}{note.ask && note.words ? ': ' : ''}{note.words}</span>
        <span class="soft">{note.technique_name} {note.by}</span>
        <span class="ml-auto flex gap-3">
          {#if open(note)}<button
              class="underline"
              onclick={() => doing(unwrap(client.PUT('/api/floor/{note_id}/done', at(note))))}
              >{note.kind === 'film' ? 'Filmed' : 'Answered'}</button
            >{/if}
          <button class="underline" onclick={() => doing(unwrap(client.DELETE('/api/floor/{note_id}', at(note))))}
            >Delete</button
          >
        </span>
      </li>
    {/each}
  </ul>
  <details class="mt-1 text-sm">
    <summary>Note something</summary>
    <FloorPad people={[{ id: student, name }]} />
  </details>
</section>
