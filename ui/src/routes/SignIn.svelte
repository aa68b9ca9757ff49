<script lang="ts">
  import { session } from '../lib/people/session.svelte'

  let email = $state('')
  let password = $state('')
  let failure = $state('')
  let busy = $state(false)

  async function submit(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    busy = true
    failure = ''
    try {
      await session.signIn(email, password)
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    } finally {
      busy = false
    }
  }
</script>

<div class="mx-auto flex min-h-full max-w-sm flex-col justify-center px-6 py-10">
  <p class="text-4xl font-[750] tracking-tight">Lacertus</p>
  <p class="soft mt-1 mb-8">Technique review for coaches of throws, kicks, sweeps, submissions and falls.</p>
  <form onsubmit={submit} class="flex flex-col gap-4">
    <label class="flex flex-col gap-1"
      >E-mail
      <input class="field" type="email" name="email" autocomplete="username" required bind:value={email} />
    </label>
    <label class="flex flex-col gap-1"
      >Password
      <input
        class="field"
        type="password"
        name="password"
        autocomplete="current-password"
        required
        bind:value={password}
      />
    </label>
    {#if failure}<p class="notice bad" role="alert">{failure}</p>{/if}
    <button class="button main self-start" disabled={busy}>Sign in</button>
  </form>
  <p class="soft mt-10 text-sm">Lacertus measures pictures. It is no medical or safety device.</p>
</div>
