<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas, type Student } from '../api/client'
  import { sure } from '../parts/asked.svelte'
  import { tell } from '../parts/told'
  import { moment } from '../parts/words'

  /** The links to a student's own page. */
  interface Props {
    student: Student
  }
  let { student }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const path = $derived({ params: { path: { student_id: student.id } } })
  const key = $derived(['own-links', student.id])
  const found = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/own-links', path)),
  }))
  const open = $derived((found.data ?? []).filter((link) => !link.revoked_at))
  const make = (holder: 'student' | 'guardian') =>
    asking.run(async () => {
      queries.setQueryData(
        key,
        await unwrap(client.POST('/api/students/{student_id}/own-links', { ...path, body: { holder } })),
      )
    })
  async function revoke(link: Schemas['OwnLinkOut']): Promise<void> {
    if (!(await sure('Withdraw this link?', 'It opens nothing from now on. What was sent stays.', 'Withdraw'))) return
    await asking.run(async () => {
      const one = { params: { path: { link_id: link.id } } }
      queries.setQueryData(key, await unwrap(client.DELETE('/api/own-links/{link_id}', one)))
    })
  }
  async function copy(address: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(address)
      tell('Copied.')
    } catch {
      tell('Select the link and copy it.')
    }
  }
</script>

<section class="mt-8" aria-label="Own page">
  <h2>Own page</h2>
  <p class="soft text-sm">
    A page for the phone: what to work on, the sheets, sending a clip, and questions to you. Whoever has the link can
    open it, so give it to {student.name.split(' ')[0]} alone.
  </p>
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  {#each open as link (link.id)}
    <div class="mt-3 flex flex-wrap items-start gap-4" data-own-link={link.holder}>
      <img src={link.qr} alt="QR code of the link" class="h-28 w-28 bg-white" />
      <div class="min-w-0 flex-1">
        <p class="text-sm">
          <b>{link.holder === 'guardian' ? `For ${student.guardian || 'the guardian'}` : `For ${student.name}`}</b>
          <span class="soft"
            >{link.last_opened_at
              ? `opened ${link.opened} ${link.opened === 1 ? 'time' : 'times'}, last ${moment(link.last_opened_at)}`
              : 'not opened yet'}</span
          >
        </p>
        <div class="mt-1 flex gap-2">
          <input
            class="field num min-w-0 flex-1 text-sm"
            readonly
            value={link.address}
            aria-label="Link"
            onfocus={(event) => event.currentTarget.select()}
          /><button class="button" onclick={() => copy(link.address)}>Copy</button>
          <button class="button" onclick={() => revoke(link)}>Withdraw</button>
        </div>
      </div>
    </div>
  {/each}
  <div class="mt-3 flex gap-3">
    <button class="button" onclick={() => make('student')}>Make a link for {student.name.split(' ')[0]}</button>
    {#if student.guardian}<button class="button" onclick={() => make('guardian')}
        >Make a link for {student.guardian}</button
      >{/if}
  </div>
</section>
