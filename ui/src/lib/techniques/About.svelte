<script lang="ts">
  import Toggle from '../parts/Toggle.svelte'
  import { useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Student } from '../api/client'

  interface Props {
    student: Student
  }
  let { student }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()

  const change = (body: { email?: string; lends_pictures?: boolean }) =>
    asking.run(async () => {
      await unwrap(client.PATCH('/api/students/{student_id}', { params: { path: { student_id: student.id } }, body }))
      await queries.invalidateQueries({ queryKey: ['student', student.id] })
    })
</script>

<h2 class="mt-8">Sharing</h2>
<div class="mt-1 grid gap-2 text-sm">
  <label class="flex flex-wrap items-center gap-2"
    >Sheets are mailed to <input
      class="field w-64"
      type="email"
      value={student.email}
      placeholder="nobody yet"
      onchange={(event) => void change({ email: event.currentTarget.value.trim() })}
    /></label
  >
  <Toggle
    label="Pictures may be shown beside other students’ corrections, as an example of how it is done right"
    checked={student.lends_pictures}
    changed={(lends_pictures) => void change({ lends_pictures })}
  />
  <p>
    <a class="underline" href="/api/students/{student.id}/file.zip" download="student.zip"
      >Everything of this student (ZIP)</a
    > <span class="soft">clips, reviews, marks, sheets: for the student, a parent, or another academy</span>
  </p>
  {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
</div>
