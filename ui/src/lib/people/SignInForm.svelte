<script lang="ts">
  import { ApiError, client, unwrap } from '../api/client'
  import { Asking } from '../api/asking.svelte'
  import { untrack } from 'svelte'
  import { session } from './session.svelte'

  /** `email` is known where a coach signs in again. */
  let { email = $bindable('') }: { email?: string } = $props()
  let password = $state('')
  let code = $state('')
  let asksCode = $state(false)
  let forgotten = $state(false)
  let sent = $state(false)
  let busy = $state(false)
  const asking = new Asking()
  /** Who signs in again has only the password to type. */
  const known = untrack(() => email !== '')

  async function submit(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    busy = true
    await asking.run(async () => {
      if (forgotten) {
        await unwrap(client.POST('/api/session/forgotten', { body: { email } }))
        sent = true
        return
      }
      try {
        await session.signIn(email, password, code)
      } catch (error) {
        if (!(error instanceof ApiError) || error.code !== 'code_needed') throw error
        asksCode = true
      }
    })
    busy = false
  }
  const focus = (node: HTMLElement) => node.focus()
</script>

{#if sent}
  <p class="notice" role="status">
    If this address has an account and the site sends mail, a link for a new password is on its way. Otherwise ask an
    owner of your academy for a link.
  </p>
  <button class="mt-4 self-start underline" onclick={() => ((sent = false), (forgotten = false))}
    >Back to signing in</button
  >
{:else}
  <form onsubmit={submit} class="flex flex-col gap-4">
    <label class="flex flex-col gap-1"
      >E-mail
      <input
        class="field"
        type="email"
        name="email"
        autocomplete="username"
        required
        readonly={asksCode}
        bind:value={email}
      />
    </label>
    {#if !forgotten && !asksCode}
      <label class="flex flex-col gap-1"
        >Password
        <!-- svelte-ignore a11y_autofocus -->
        <input
          class="field"
          autofocus={known}
          type="password"
          name="password"
          autocomplete="current-password"
          required
          bind:value={password}
        />
      </label>
    {/if}
    {#if asksCode}
      <label class="flex flex-col gap-1"
        >The six digits that your app shows
        <input
          class="field num"
          name="code"
          inputmode="numeric"
          autocomplete="one-time-code"
          maxlength="7"
          required
          use:focus
          bind:value={code}
        />
      </label>
    {/if}
    {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
    <div class="flex items-baseline gap-5">
      <button class="button main" disabled={busy}>{forgotten ? 'Send me a link' : 'Sign in'}</button>
      {#if asksCode}<button
          type="button"
          class="text-sm underline"
          onclick={() => ((asksCode = false), (code = password = ''))}>Start again</button
        >{:else}<button type="button" class="text-sm underline" onclick={() => (forgotten = !forgotten)}
          >{forgotten ? 'Back to signing in' : 'Forgot your password?'}</button
        >{/if}
    </div>
  </form>
{/if}
