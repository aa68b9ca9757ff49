<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap } from '../lib/api/client'
  import Combobox from '../lib/parts/Combobox.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import Toggle from '../lib/parts/Toggle.svelte'
  import { LANGUAGES } from '../lib/students/languages'
  import { session } from '../lib/people/session.svelte'

  /** Where a link that works once leads: a new academy, an invitation, or a new password. */
  interface Props {
    token: string
  }
  let { token }: Props = $props()
  const opened = createQuery(() => ({
    queryKey: ['link', token],
    queryFn: () => unwrap(client.POST('/api/links/look', { body: { token } })),
    retry: false,
    staleTime: Infinity,
  }))
  const kind = $derived(opened.data?.kind)
  const zones = createQuery(() => ({
    queryKey: ['time-zones'],
    queryFn: () => unwrap(client.GET('/api/time-zones')),
    enabled: kind === 'setup',
    staleTime: Infinity,
  }))
  const queries = useQueryClient()
  let academy = $state('')
  let zone = $state(Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC')
  let units = $state<'metric' | 'imperial'>('metric')
  let language = $state<string>('en')
  let consent = $state(true)
  let typed = $state<string | null>(null)
  const name = $derived(typed ?? opened.data?.name ?? '')
  let email = $state('')
  let password = $state('')
  let done = $state(false)
  const asking = new Asking()

  async function submit(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    await asking.run(async () => {
      if (kind === 'reset') {
        await unwrap(client.POST('/api/links/password', { body: { token, password } }))
        session.coach = null
        done = true
        return
      }
      const coach =
        kind === 'setup'
          ? await unwrap(
              client.POST('/api/links/set-up', {
                body: {
                  token,
                  name,
                  email,
                  password,
                  academy: {
                    name: academy,
                    time_zone: zone,
                    units,
                    sheet_language: language,
                    needs_second_factor: false,
                    needs_consent: consent,
                  },
                },
              }),
            )
          : await unwrap(client.POST('/api/links/join', { body: { token, name, password } }))
      // What another account saw on this device is forgotten before anything is asked for the new one.
      queries.clear()
      session.coach = coach
      location.hash = '#/'
    })
  }
  const TITLES = { setup: 'Set up your academy', invite: 'Join', reset: 'Choose a new password' }
</script>

<div class="mx-auto flex min-h-full max-w-md flex-col justify-center px-6 py-10">
  <p class="mb-6 text-2xl font-[750] tracking-tight">Lacertus</p>
  {#if opened.error}
    <h1>This link does not work</h1>
    <p class="notice bad mt-3" role="alert">{opened.error.message}</p>
    <a class="mt-5 underline" href="#/">Go to signing in</a>
  {:else if done}
    <h1>Your password is changed</h1>
    <p class="notice mt-3" role="status">All devices were signed out. Sign in with the new password.</p>
    <a class="button main mt-5 self-start" href="#/">Sign in</a>
  {:else if opened.data && kind}
    <h1>{kind === 'invite' ? `Join ${opened.data.academy}` : TITLES[kind]}</h1>
    {#if kind === 'setup'}<p class="soft mt-1">
        You become its owner. Everything here can be changed later, and coaches are invited afterwards.
      </p>{:else if kind === 'invite'}<p class="soft mt-1">
        You are invited as <b>{opened.data.role}</b>, and will sign in as <b>{opened.data.email}</b>.
      </p>{:else}<p class="soft mt-1">For {opened.data.email}. All devices are signed out.</p>{/if}
    <form class="mt-6 flex flex-col gap-4" onsubmit={submit}>
      {#if kind === 'setup'}
        <label class="flex flex-col gap-1"
          >Name of the academy<input class="field" maxlength="100" required bind:value={academy} /></label
        >
        <div class="flex flex-col gap-1">
          <span aria-hidden="true">Time zone</span><Combobox
            label="Time zone"
            items={(zones.data ?? [zone]).map((one) => ({ value: one, label: one.replaceAll('_', ' ') }))}
            value={zone}
            changed={(next) => (zone = next)}
            required
          />
        </div>
        <div class="flex flex-col gap-1">
          <span aria-hidden="true">Heights and weights</span>
          <Segments
            label="Units"
            choices={[
              ['metric', 'cm and kg'],
              ['imperial', 'inches and pounds'],
            ]}
            value={units}
            changed={(next) => (units = next)}
          />
        </div>
        <div class="flex flex-col gap-1">
          <span aria-hidden="true">Language of sheets and students’ pages</span>
          <Segments
            label="Language of sheets and students’ pages"
            choices={[...LANGUAGES]}
            value={language}
            changed={(next) => (language = next)}
          />
        </div>
        <Toggle
          label="Nobody is filmed without a consent that is recorded"
          checked={consent}
          changed={(next) => (consent = next)}
        />
        <hr style="border-color: var(--rule)" />
      {/if}
      {#if kind !== 'reset'}<label class="flex flex-col gap-1"
          >Your name<input
            class="field"
            maxlength="100"
            autocomplete="name"
            required
            value={name}
            oninput={(event) => (typed = event.currentTarget.value)}
          /></label
        >{/if}
      {#if kind === 'setup'}<label class="flex flex-col gap-1"
          >Your e-mail, to sign in with<input
            class="field"
            type="email"
            autocomplete="username"
            required
            bind:value={email}
          /></label
        >{/if}
      <label class="flex flex-col gap-1"
        >A password of at least ten characters<input
          class="field"
          type="password"
          minlength="10"
          autocomplete="new-password"
          required
          bind:value={password}
        /></label
      >
      {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
      <button class="button main self-start"
        >{kind === 'setup' ? 'Open the academy' : kind === 'invite' ? 'Join' : 'Save the new password'}</button
      >
    </form>
  {:else}<p class="soft">Opening…</p>{/if}
</div>
