<script lang="ts">
  import { createInfiniteQuery, createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { sure } from '../lib/parts/asked.svelte'
  import Combobox from '../lib/parts/Combobox.svelte'
  import { LANGUAGES } from '../lib/students/languages'
  import Segments from '../lib/parts/Segments.svelte'
  import Toggle from '../lib/parts/Toggle.svelte'
  import { tell } from '../lib/parts/told'
  import { moment } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'

  /** Who signs in here and in which role; for owners invitations, the academy's settings and the audit trail. */
  type Role = 'owner' | 'coach' | 'assistant'
  const ROLES: readonly (readonly [Role, string])[] = [
    ['owner', 'Owner'],
    ['coach', 'Coach'],
    ['assistant', 'Assistant'],
  ]
  const MAY: Record<Role, string> = {
    owner: 'may do everything, and decides who may do what',
    coach: 'reviews, finishes and shares',
    assistant: 'uploads and names clips, adds students and writes notes; finishes nothing',
  }
  const queries = useQueryClient()
  const people = createQuery(() => ({ queryKey: ['people'], queryFn: () => unwrap(client.GET('/api/people')) }))
  const settings = createQuery(() => ({
    queryKey: ['academy-settings'],
    queryFn: () => unwrap(client.GET('/api/academy/settings')),
    enabled: session.isOwner,
  }))
  const zones = createQuery(() => ({
    queryKey: ['time-zones'],
    queryFn: () => unwrap(client.GET('/api/time-zones')),
    enabled: session.isOwner,
    staleTime: Infinity,
  }))
  const trail = createInfiniteQuery(() => ({
    queryKey: ['audit'],
    enabled: session.isOwner,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      unwrap(client.GET('/api/academy/audit', { params: { query: pageParam ? { before: pageParam } : {} } })),
    getNextPageParam: (page: Schemas['AuditOut'][]) => (page.length < 100 ? undefined : page.at(-1)?.id),
  }))
  const asking = new Asking()
  const setting = new Asking()
  let name = $state('')
  let email = $state('')
  let role = $state<Role>('coach')
  let mail = $state(true)
  let link = $state<{ of: string; link: string; mailed: boolean } | null>(null)

  const done = (answer: Promise<Schemas['PeopleOut']>) =>
    asking.run(async () => {
      queries.setQueryData(['people'], await answer)
      await queries.invalidateQueries({ queryKey: ['audit'] })
      if (session.coach) await session.read()
    })
  const of = (id: string) => ({ params: { path: { account_id: id } } })

  async function invite(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const body = { name, email, role, mail }
    await asking.run(async () => {
      const made = await unwrap(client.POST('/api/people/invitations', { body }))
      link = { of: name, link: made.link, mailed: made.mailed ?? false }
      name = email = ''
      await queries.invalidateQueries()
    })
  }
  async function reset(one: Schemas['PersonOut']): Promise<void> {
    await asking.run(async () => {
      const made = await unwrap(client.POST('/api/people/{account_id}/reset', of(one.id)))
      link = { of: one.name, link: made.link, mailed: false }
    })
  }
  async function leave(one: Schemas['PersonOut']): Promise<void> {
    const text = `${one.name} is signed out everywhere and cannot sign in again. The name stays on what they judged.`
    if (await sure(`End the account of ${one.name}?`, text, 'End the account'))
      await done(unwrap(client.POST('/api/people/{account_id}/leave', of(one.id))))
  }
  async function forget(one: Schemas['PersonOut']): Promise<void> {
    const text = 'Signing in then asks for the password alone, until they set up a new one.'
    if (await sure(`Turn off the second factor of ${one.name}?`, text, 'Turn it off'))
      await done(unwrap(client.DELETE('/api/people/{account_id}/second-factor', of(one.id))))
  }
  async function copy(): Promise<void> {
    if (!link) return
    try {
      await navigator.clipboard.writeText(link.link)
      tell('Copied.')
    } catch {
      tell('Select the link and copy it.')
    }
  }
  async function change(part: Partial<Schemas['WishesIn']>): Promise<void> {
    const now = settings.data
    if (!now) return
    const body = { ...now, units: now.units === 'imperial' ? ('imperial' as const) : ('metric' as const), ...part }
    const saved = await setting.run(async () => {
      queries.setQueryData(['academy-settings'], await unwrap(client.PUT('/api/academy/settings', { body })))
      await session.read()
      await queries.invalidateQueries({ queryKey: ['audit'] })
    })
    if (saved) tell('Saved.')
  }
</script>

<div class="mx-auto max-w-4xl px-5 py-6">
  <h1>People</h1>
  <p class="soft text-sm">Who signs in here. {session.isOwner ? '' : 'Owners invite people and change roles.'}</p>
  {#if asking.failure}<p class="notice bad mt-3" role="alert">{asking.failure}</p>{/if}
  {#if people.error}<p class="notice bad mt-3" role="alert">{people.error.message}</p>{/if}
  <ul class="mt-4" style="border-top: 2px solid var(--ink)">
    {#each people.data?.people ?? [] as one (one.id)}
      <li class="rule-b flex flex-wrap items-center gap-x-4 gap-y-1 py-2" data-person={one.name}>
        <span class="w-44 font-semibold">{one.name}{one.id === session.coach?.id ? ' (you)' : ''}</span>
        {#if one.left_at}<span class="soft text-sm">left <span class="num">{moment(one.left_at)}</span></span>
        {:else}
          <span class="soft w-56 truncate text-sm" title={one.email}>{one.email}</span>
          {#if session.isOwner}
            <Segments
              label="Role of {one.name}"
              choices={ROLES}
              value={one.role as Role}
              changed={(next) =>
                void done(unwrap(client.PUT('/api/people/{account_id}/role', { ...of(one.id), body: { role: next } })))}
            />
            <span class="ml-auto flex gap-3 text-sm">
              {#if one.id !== session.coach?.id}
                <button class="underline" onclick={() => reset(one)}>Reset password</button>
                {#if one.has_second_factor}<button class="underline" onclick={() => forget(one)}
                    >Turn off second factor</button
                  >{/if}
                <button class="underline" onclick={() => leave(one)}>End account</button>
              {:else}<a class="underline" href="#/account">Your account</a>{/if}
            </span>
          {:else}<span class="text-sm">{one.role}</span>{/if}
        {/if}
      </li>
    {/each}
    {#each people.data?.invitations ?? [] as one (one.id)}
      <li class="rule-b flex flex-wrap items-center gap-x-4 py-2" data-invitation={one.name}>
        <span class="w-44">{one.name}</span><span class="soft w-56 truncate text-sm" title={one.email}>{one.email}</span
        >
        <span class="soft text-sm">invited as {one.role}, until <span class="num">{moment(one.expires_at)}</span></span>
        <button
          class="ml-auto text-sm underline"
          onclick={() =>
            void done(
              unwrap(client.DELETE('/api/people/invitations/{link_id}', { params: { path: { link_id: one.id } } })),
            )}>Withdraw</button
        >
      </li>
    {/each}
  </ul>

  {#if link}
    <div class="notice mt-4" role="status">
      <p>
        <b>The link for {link.of}</b>{link.mailed ? ' was sent by mail' : ''}. It works once. Copy it now: it is not
        shown again.
      </p>
      <div class="mt-2 flex gap-2">
        <input
          class="field num min-w-0 flex-1 text-sm"
          readonly
          value={link.link}
          aria-label="Link"
          data-testid="made-link"
          onfocus={(event) => event.currentTarget.select()}
        /><button class="button" onclick={copy}>Copy</button>
      </div>
    </div>
  {/if}

  {#if session.isOwner}
    <form class="mt-8" aria-label="Invite somebody" onsubmit={invite}>
      <h2>Invite somebody</h2>
      <div class="mt-2 flex flex-wrap items-end gap-3">
        <label class="flex flex-col gap-1"
          >Name<input class="field w-48" maxlength="100" required bind:value={name} /></label
        >
        <label class="flex flex-col gap-1"
          >E-mail<input class="field w-60" type="email" required bind:value={email} /></label
        >
        <Segments label="Role" choices={ROLES} value={role} changed={(next) => (role = next)} />
        <button class="button main">Invite</button>
      </div>
      <p class="soft mt-2 text-sm">{ROLES.find(([one]) => one === role)?.[1]}: {MAY[role]}.</p>
      <div class="mt-2">
        <Toggle label="Send the link by mail too" checked={mail} changed={(next) => (mail = next)} />
      </div>
    </form>

    <section class="mt-10" aria-label="Settings">
      <h2>The academy</h2>
      {#if setting.failure}<p class="notice bad mt-2" role="alert">{setting.failure}</p>{/if}
      {#if settings.data}
        <div class="mt-2 flex flex-wrap items-end gap-x-6 gap-y-4">
          <label class="flex flex-col gap-1"
            >Name<input
              class="field w-64"
              maxlength="100"
              value={settings.data.name}
              onchange={(event) => change({ name: event.currentTarget.value })}
            /></label
          >
          <div class="flex flex-col gap-1">
            <span aria-hidden="true">Time zone</span><Combobox
              label="Time zone"
              items={(zones.data ?? [settings.data.time_zone]).map((one) => ({
                value: one,
                label: one.replaceAll('_', ' '),
              }))}
              value={settings.data.time_zone}
              changed={(next) => next && void change({ time_zone: next })}
            />
          </div>
          <div class="flex flex-col gap-1">
            <span aria-hidden="true">Heights and weights</span><Segments
              label="Units"
              choices={[
                ['metric', 'cm and kg'],
                ['imperial', 'inches and pounds'],
              ]}
              value={settings.data.units as 'metric' | 'imperial'}
              changed={(next) => void change({ units: next })}
            />
          </div>
          <div class="flex flex-col gap-1">
            <span aria-hidden="true">Language of sheets and students’ pages</span><Segments
              label="Language of sheets and students’ pages"
              choices={[...LANGUAGES]}
              value={settings.data.sheet_language}
              changed={(next) => void change({ sheet_language: next })}
            />
          </div>
          <label class="flex flex-col gap-1"
            >Delete films after, days (empty: never)<input
              class="field num w-40"
              type="number"
              min="14"
              max="3650"
              value={settings.data.keeps_films_days}
              onchange={(event) => {
                const { value, valueAsNumber } = event.currentTarget
                void change({ keeps_films_days: value ? valueAsNumber : null })
              }}
            /></label
          >
          <Toggle
            label="Nobody is filmed without a consent that is recorded"
            checked={settings.data.needs_consent}
            changed={(next) => void change({ needs_consent: next })}
          />
          <Toggle
            label="Everybody needs a second factor"
            checked={settings.data.needs_second_factor}
            changed={(next) => void change({ needs_second_factor: next })}
          />
        </div>
      {/if}
    </section>

    <section class="mt-10" aria-label="Audit trail">
      <h2>Audit trail</h2>
      <p class="soft text-sm">Sign-ins, links, exports, deletions and roles. Nothing here can be changed.</p>
      <table class="mt-2 w-full text-sm" style="border-top: 2px solid var(--ink)">
        <tbody>
          {#each trail.data?.pages.flat() ?? [] as one (one.id)}
            <tr class="rule-b">
              <td class="num py-1 pr-4 whitespace-nowrap">{moment(one.at)}</td>
              <td class="pr-4">{one.who}</td><td class="pr-4">{one.what}</td><td class="soft">{one.about}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if trail.hasNextPage}<button class="button mt-3" onclick={() => trail.fetchNextPage()}>Show earlier</button
        >{/if}
    </section>
  {/if}
</div>
