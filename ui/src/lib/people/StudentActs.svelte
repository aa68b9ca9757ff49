<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { push } from 'svelte-spa-router'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Student } from '../api/client'
  import { sure } from '../parts/asked.svelte'
  import Combobox from '../parts/Combobox.svelte'
  import Dialog from '../parts/Dialog.svelte'
  import { tell } from '../parts/told'
  import { session } from './session.svelte'
  import StudentForm from './StudentForm.svelte'

  /** Edit, archive, join, export and delete a student. */
  interface Props {
    student: Student
  }
  let { student }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const deleting = new Asking()
  let editing = $state(false)
  let joining = $state(false)
  let asksDelete = $state(false)
  let other = $state('')
  let typed = $state('')
  const path = $derived({ params: { path: { student_id: student.id } } })
  const students = createQuery(() => ({
    queryKey: ['roster', true],
    queryFn: () => unwrap(client.GET('/api/roster', { params: { query: { archived: true } } })),
    enabled: joining,
  }))
  const goes = createQuery(() => ({
    queryKey: ['goes', student.id],
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/goes', path)),
    enabled: asksDelete,
  }))

  const archive = () =>
    asking.run(async () => {
      await unwrap(
        student.archived_at
          ? client.DELETE('/api/students/{student_id}/archived', path)
          : client.PUT('/api/students/{student_id}/archived', path),
      )
      await queries.invalidateQueries()
      tell(student.archived_at ? 'Restored: back in the lists.' : 'Archived. Everything is kept.')
    })
  async function join(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const name = students.data?.find((row) => row.student.id === other)?.student.name ?? ''
    const text = `Everything of ${name} becomes ${student.name}’s, and ${name} is gone. This cannot be undone.`
    if (!(await sure(`Join ${name} into ${student.name}?`, text, 'Join'))) return
    await asking.run(async () => {
      await unwrap(client.POST('/api/students/{student_id}/join', { ...path, body: { other } }))
      joining = false
      await queries.invalidateQueries()
      tell('Joined.')
    })
  }
  async function remove(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    await deleting.run(async () => {
      await unwrap(client.DELETE('/api/students/{student_id}', path))
      asksDelete = false
      await push('/students')
      queries.clear()
      tell(`${student.name} and everything of theirs was deleted.`)
    })
  }
  const count = (n: number, one: string, many: string) => `${n} ${n === 1 ? one : many}`
</script>

<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-sm">
  {#if session.mayReview}
    <button class="underline" onclick={() => (editing = true)}>Edit</button>
    <button class="underline" onclick={archive}>{student.archived_at ? 'Restore' : 'Archive'}</button>
    <button class="underline" onclick={() => (joining = !joining)}>Join with…</button>
    <a class="underline" href="/api/students/{student.id}/file.zip" download>Export everything</a>
  {/if}
  {#if session.isOwner}<button class="underline" onclick={() => ((typed = ''), (asksDelete = true))}>Delete…</button
    >{/if}
</div>
{#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
{#if joining}
  <form class="notice mt-2 flex flex-wrap items-end gap-3" onsubmit={join}>
    <div class="flex flex-col gap-1">
      <span aria-hidden="true">The same person, written down twice</span><Combobox
        label="The other student"
        items={(students.data ?? [])
          .filter((row) => row.student.id !== student.id)
          .map((row) => ({ value: row.student.id, label: row.student.name }))}
        value={other}
        changed={(id) => (other = id)}
        required
        testid="join-student"
      />
    </div>
    <button class="button main" disabled={!other}>Join into {student.name}</button>
    <button type="button" class="underline" onclick={() => (joining = false)}>Cancel</button>
  </form>
{/if}
{#if editing}<StudentForm {student} closed={() => (editing = false)} />{/if}
{#if asksDelete}
  <Dialog open title="Delete {student.name} with everything?" question closed={() => (asksDelete = false)}>
    {#if goes.error}<p class="notice bad mt-3" role="alert">{goes.error.message}</p>{/if}
    {#if goes.data}
      <p class="mt-3">
        This deletes {count(goes.data.clips, 'clip', 'clips')} with their pictures, {count(
          goes.data.reviews,
          'review',
          'reviews',
        )} with {count(goes.data.reps, 'rep', 'reps')}, sheets and {count(goes.data.links, 'link', 'links')},
        {count(goes.data.mails, 'mail', 'mails')} in the outbox, notes and rungs. It cannot be undone.
      </p>
      {#if goes.data.of_others}<p class="notice bad mt-3">
          In these clips are {count(goes.data.of_others, 'rep', 'reps')} of other students, which go too.
        </p>{/if}
      {#if goes.data.shown_in.length}<p class="notice mt-3">
          They are also seen in clips of others, which stay: {goes.data.shown_in.join(', ')}. Delete those as well if
          they must go.
        </p>{/if}
      <p class="soft mt-3 text-sm">Backups made before, and mail that was sent, are not reached.</p>
      <form class="mt-4 flex flex-col gap-3" onsubmit={remove}>
        <label class="flex flex-col gap-1"
          >Type the name to confirm<input class="field" placeholder={student.name} bind:value={typed} /></label
        >
        {#if deleting.failure}<p class="notice bad" role="alert">{deleting.failure}</p>{/if}
        <div class="flex justify-end gap-3">
          <button type="button" class="button" onclick={() => (asksDelete = false)}>Cancel</button>
          <button class="button main" disabled={typed.trim() !== student.name}>Delete everything</button>
        </div>
      </form>
    {/if}
  </Dialog>
{/if}
