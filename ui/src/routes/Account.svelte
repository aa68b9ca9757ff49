<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { tell } from '../lib/parts/told'
  import { moment } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'

  /** One's own account: name, e-mail, password, second factor, devices. */
  const coach = $derived(session.coach)
  const queries = useQueryClient()
  const devices = createQuery(() => ({
    queryKey: ['devices'],
    queryFn: () => unwrap(client.GET('/api/account/devices')),
  }))
  const site = createQuery(() => ({
    queryKey: ['site'],
    queryFn: () => unwrap(client.GET('/api/site')),
    staleTime: Infinity,
  }))
  const asking = new Asking()
  const factor = new Asking()
  let name = $state(session.coach?.name ?? '')
  let email = $state(session.coach?.email ?? '')
  let newPassword = $state('')
  let password = $state('')
  let offer = $state<Schemas['FactorOfferOut'] | null>(null)
  let code = $state('')
  let turningOff = $state(false)
  const changed = $derived(name !== coach?.name || email !== coach.email || newPassword !== '')

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const body = {
      password,
      ...(name !== coach?.name && { name }),
      ...(email !== coach?.email && { email }),
      ...(newPassword && { new_password: newPassword }),
    }
    const done = await asking.run(async () => (session.coach = await unwrap(client.PATCH('/api/account', { body }))))
    if (!done) return
    tell(newPassword ? 'Saved. Your other devices were signed out.' : 'Saved.')
    password = newPassword = ''
    await queries.invalidateQueries({ queryKey: ['devices'] })
  }
  const begin = () => factor.run(async () => (offer = await unwrap(client.POST('/api/account/second-factor'))))
  async function turnOn(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    if (!offer) return
    const body = { offered: offer.offered, code }
    if (
      await factor.run(async () => (session.coach = await unwrap(client.PUT('/api/account/second-factor', { body }))))
    ) {
      offer = null
      code = ''
      tell('The second factor is on.')
    }
  }
  async function turnOff(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const off = () => unwrap(client.POST('/api/account/second-factor/off', { body: { password } }))
    if (await factor.run(async () => (session.coach = await off()))) {
      turningOff = false
      password = ''
      tell('The second factor is off.')
    }
  }
  const signOut = (answer: Promise<Schemas['DeviceOut'][]>) =>
    asking.run(async () => queries.setQueryData(['devices'], await answer))
</script>

<div class="mx-auto max-w-2xl px-5 py-6">
  <h1>Your account</h1>
  {#if coach}<p class="soft text-sm">{coach.role} at {coach.academy}</p>{/if}
  {#if coach?.lacks_second_factor}<p class="notice bad mt-3" role="alert">
      Your academy asks everybody for a second factor. Set yours up below, then everything else opens.
    </p>{/if}

  <section class="mt-6" aria-label="Second factor">
    <h2>Second factor</h2>
    {#if coach?.has_second_factor}
      <p class="mt-1">On: signing in asks for the six digits of your app too.</p>
      {#if turningOff}
        <form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={turnOff}>
          <label class="flex flex-col gap-1"
            >Your password<input
              class="field"
              type="password"
              autocomplete="current-password"
              required
              bind:value={password}
            /></label
          ><button class="button main">Turn it off</button><button
            type="button"
            class="underline"
            onclick={() => (turningOff = false)}>Cancel</button
          >
        </form>
      {:else}<button class="mt-1 underline" onclick={() => (turningOff = true)}>Turn it off</button>{/if}
    {:else if offer}
      <div class="mt-2 flex flex-wrap items-start gap-5">
        <img src={offer.qr} alt="QR code for your app" width="190" height="190" style="background: #fff" />
        <form class="flex max-w-xs flex-col gap-3" onsubmit={turnOn}>
          <p>
            Scan this with an app that shows codes, or <a class="underline" href={offer.address}>open it in one</a> on this
            device. Then type the six digits that it shows.
          </p>
          <label class="flex flex-col gap-1"
            >Six digits<input
              class="field num w-32"
              inputmode="numeric"
              autocomplete="one-time-code"
              maxlength="7"
              required
              bind:value={code}
            /></label
          >
          <div class="flex items-baseline gap-4">
            <button class="button main">Turn it on</button><button
              type="button"
              class="underline"
              onclick={() => (offer = null)}>Cancel</button
            >
          </div>
        </form>
      </div>
    {:else}
      <p class="soft mt-1">Off. With it, a stolen password alone opens nothing.</p>
      <button class="button mt-2" onclick={begin}>Set it up</button>
    {/if}
    {#if factor.failure}<p class="notice bad mt-2" role="alert">{factor.failure}</p>{/if}
  </section>

  <form class="mt-8" aria-label="Name, e-mail and password" onsubmit={save}>
    <h2>Name, e-mail and password</h2>
    <div class="mt-2 grid gap-4 sm:grid-cols-2">
      <label class="flex flex-col gap-1"
        >Name<input class="field" maxlength="100" autocomplete="name" required bind:value={name} /></label
      >
      <label class="flex flex-col gap-1"
        >E-mail, to sign in with<input
          class="field"
          type="email"
          autocomplete="username"
          required
          bind:value={email}
        /></label
      >
      <label class="flex flex-col gap-1"
        >New password<input
          class="field"
          type="password"
          minlength="10"
          autocomplete="new-password"
          placeholder="leave empty to keep it"
          bind:value={newPassword}
        /></label
      >
      <label class="flex flex-col gap-1"
        >Current password, to confirm that it is you<input
          class="field"
          type="password"
          autocomplete="current-password"
          required={changed}
          bind:value={password}
        /></label
      >
    </div>
    {#if asking.failure}<p class="notice bad mt-3" role="alert">{asking.failure}</p>{/if}
    <button class="button main mt-3" disabled={!changed}>Save</button>
  </form>

  <section class="mt-8" aria-label="Devices">
    <h2>Where you are signed in</h2>
    <ul class="mt-2" style="border-top: 1px solid var(--rule)">
      {#each devices.data ?? [] as one (one.id)}
        <li class="rule-b flex flex-wrap items-baseline gap-x-4 py-2">
          <span>{one.device || 'a device'}{one.own ? ', this one' : ''}</span>
          <span class="soft text-sm">since <span class="num">{moment(one.made_at)}</span></span>
          <span class="soft text-sm">last used <span class="num">{moment(one.seen_at)}</span></span>
          {#if !one.own}<button
              class="ml-auto underline"
              onclick={() =>
                signOut(
                  unwrap(
                    client.DELETE('/api/account/devices/{device_id}', { params: { path: { device_id: one.id } } }),
                  ),
                )}>Sign out</button
            >{/if}
        </li>
      {/each}
    </ul>
    {#if (devices.data?.length ?? 0) > 1}<button
        class="button mt-3"
        onclick={() => signOut(unwrap(client.DELETE('/api/account/devices')))}>Sign out all other devices</button
      >{/if}
  </section>

  {#if site.data}
    <section class="mt-8" aria-label="On a phone">
      <h2>On a phone</h2>
      {#if site.data.local}
        <p class="soft mt-1">
          This server is reached from this machine alone. Start it with <code class="num">--lan</code> to let phones in the
          hall reach it.
        </p>
      {:else}
        <div class="mt-2 flex flex-wrap gap-8">
          {#if site.data.root && site.data.root_qr}
            <figure class="max-w-48">
              <img
                src={site.data.root_qr}
                alt="QR code: the certificate"
                width="170"
                height="170"
                style="background: #fff"
              />
              <figcaption class="mt-1 text-sm">
                1. Once for each phone: <a class="underline" href={site.data.root}>install the certificate</a>
              </figcaption>
            </figure>
          {/if}
          <figure class="max-w-48">
            <img src={site.data.qr} alt="QR code: this site" width="170" height="170" style="background: #fff" />
            <figcaption class="mt-1 text-sm break-words">
              {site.data.root ? '2. Then open ' : 'Open '}<span class="num">{site.data.address}</span>
            </figcaption>
          </figure>
        </div>
      {/if}
    </section>
  {/if}
</div>
