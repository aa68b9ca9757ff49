<script lang="ts">
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap } from '../api/client'
  import { sure } from '../parts/asked.svelte'
  import { tell } from '../parts/told'

  /** The secret address of a calendar: one’s own, or a student’s. */
  let { own = false, student = '' }: { own?: boolean; student?: string } = $props()
  const asking = new Asking()
  let address = $state('')
  const path = $derived({ params: { path: { student_id: student } } })
  const show = () =>
    asking.run(async () => {
      const made = own ? client.POST('/api/calendar/feed') : client.POST('/api/students/{student_id}/feed', path)
      address = (await unwrap(made)).address
    })
  async function renew(): Promise<void> {
    if (!(await sure('Make a new address?', 'The old one shows nothing from then on.'))) return
    await asking.run(async () => {
      const made = own
        ? client.POST('/api/calendar/feed/renew')
        : client.POST('/api/students/{student_id}/feed/renew', path)
      address = (await unwrap(made)).address
      tell('The old address is shut.')
    })
  }
</script>

<section class="mt-8" aria-label="Calendar address">
  <h2>{own ? 'Your calendar' : 'Calendar'}</h2>
  <p class="soft text-sm">
    {own ? 'Classes and rechecks' : 'Their classes, rechecks and practice'} for a calendar program, by a secret address. Whoever
    has it can read it.
  </p>
  {#if address}
    <input class="field num mt-1 w-full text-sm" readonly value={address} aria-label="Address of the calendar" />
    <button class="mt-1 text-sm underline" onclick={renew}>Renew it</button>
  {:else}<button class="mt-1 text-sm underline" onclick={show}>Show the address</button>{/if}
  {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
</section>
