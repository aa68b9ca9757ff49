<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas, type Student } from '../api/client'
  import { sure } from '../parts/asked.svelte'
  import { tell } from '../parts/told'
  import { longDay } from '../parts/words'

  /** What was agreed to for a student: written down, and withdrawn. */
  interface Props {
    student: Student
  }
  let { student }: Props = $props()
  type Purpose = Schemas['ConsentStandingOut']['purpose']
  const WORDS: Record<Purpose, string> = {
    filming: 'Being filmed for review',
    sharing: 'Pictures beside the corrections of others',
    training: 'The academy’s own training sets',
  }
  const queries = useQueryClient()
  const asking = new Asking()
  const path = $derived({ params: { path: { student_id: student.id } } })
  const key = $derived(['consents', student.id])
  const found = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/consents', path)),
  }))
  let purpose = $state<Purpose | null>(null)
  let by = $state('')
  let as = $state<'student' | 'guardian'>('student')
  let on = $state('')
  let until = $state('')
  function begin(next: Purpose): void {
    purpose = next
    as = found.data?.is_child ? 'guardian' : 'student'
    by = as === 'guardian' ? student.guardian : student.name
    on = new Date().toLocaleDateString('sv')
    until = ''
  }
  async function give(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const wanted = purpose
    if (!wanted) return
    const body = { purpose: wanted, given_by: by, given_as: as, given_on: on, until: until || null }
    const done = await asking.run(async () => {
      queries.setQueryData(key, await unwrap(client.POST('/api/students/{student_id}/consents', { ...path, body })))
    })
    if (!done) return
    purpose = null
    tell('Saved.')
  }
  async function withdraw(one: Schemas['ConsentStandingOut']): Promise<void> {
    const text = `From today nothing new is done under it. What was filmed before stays until it is deleted.`
    if (!(await sure(`Withdraw: ${WORDS[one.purpose]}?`, text, 'Withdraw'))) return
    const to = { params: { path: { student_id: student.id, purpose: one.purpose } } }
    const body = { by: one.consent?.given_by ?? student.name }
    await asking.run(async () => {
      queries.setQueryData(
        key,
        await unwrap(client.POST('/api/students/{student_id}/consents/{purpose}/withdraw', { ...to, body })),
      )
    })
  }
  function standing({ state: now, consent, allows }: Schemas['ConsentStandingOut']): string {
    if (now === 'none') return allows ? 'not asked for' : 'not agreed: refused'
    if (now === 'withdrawn') return `withdrawn by ${consent?.withdrawn_by ?? ''}: refused`
    if (now === 'ended') return `ended on ${longDay(consent?.until ?? '')}: refused`
    const end = consent?.until ? `, until ${longDay(consent.until)}` : ''
    const who = `${consent?.given_by ?? ''}${consent?.given_as === 'guardian' ? ' (guardian)' : ''}`
    return `${now === 'not yet' ? 'from' : 'agreed:'} ${who}, ${longDay(consent?.given_on ?? '')}${end}`
  }
</script>

<section class="mt-8" aria-label="Consent">
  <h2>Consent</h2>
  <p class="soft text-sm">
    {found.data?.asked
      ? 'What was not agreed to is refused: a clip, or a picture beside a correction.'
      : 'This academy does not ask for consent first; what was withdrawn is refused all the same. Owners change that on the page People.'}
    {#if found.data?.is_child}A guardian agrees for a child.{/if}
  </p>
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  <ul class="mt-2" style="border-top: 2px solid var(--ink)">
    {#each found.data?.standings ?? [] as one (one.purpose)}
      <li class="rule-b flex flex-wrap items-baseline gap-x-4 gap-y-1 py-1.5" data-consent={one.purpose}>
        <span class="w-80 max-w-full">{WORDS[one.purpose]}</span>
        <span class="text-sm" class:soft={one.allows} style:color={one.allows ? null : 'var(--alarm)'}
          >{standing(one)}</span
        >
        <span class="ml-auto flex gap-4 text-sm">
          {#if one.state === 'given'}<button class="underline" onclick={() => withdraw(one)}>Withdraw</button>{/if}
          <button class="underline" onclick={() => begin(one.purpose)}
            >{one.state === 'given' ? 'Renew' : 'Record consent'}</button
          >
        </span>
      </li>
    {/each}
  </ul>
  {#if purpose}
    <form class="notice mt-3 flex flex-wrap items-end gap-3" aria-label="Record consent" onsubmit={give}>
      <b class="w-full">{WORDS[purpose]}</b>
      {#if purpose === 'training'}<p class="w-full text-sm">
          Film of their finished reps is then shown, without names, to those of the academy who train the eye. A rep
          with a partner is shown once the partner is named on the bench and has agreed too.
        </p>{/if}
      <label class="flex flex-col gap-1 text-sm"
        >Who agrees<input class="field" maxlength="100" required bind:value={by} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >As<select class="field" bind:value={as}
          ><option value="student">the student</option><option value="guardian">a guardian</option></select
        ></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >On<input class="field num" type="date" required bind:value={on} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >Until (empty: until withdrawn)<input class="field num" type="date" bind:value={until} /></label
      >
      <button class="button main">Save</button>
      <button type="button" class="button" onclick={() => (purpose = null)}>Cancel</button>
    </form>
  {/if}
</section>
