<script lang="ts">
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { session } from '../people/session.svelte'

  /** Opens a class where it is planned, or plans it; once it is planned it can be run. */
  let { one }: { one: Schemas['OnDayOut'] } = $props()
  const asking = new Asking()
  const open = () =>
    asking.run(async () => {
      const { weekly, planned_on } = one
      if (one.lesson || !weekly || !planned_on) return
      const made = await unwrap(client.POST('/api/classes/planned', { body: { weekly, planned_on } }))
      location.hash = `#/classes/${made.id}`
    })
</script>

{#if one.lesson}
  <span class="inline-flex flex-wrap items-center gap-3"
    ><a class="underline" href="#/classes/{one.lesson}"
      >{one.booked ? 'Booked' : one.units ? `Plan of ${one.units} units` : 'Plan'}</a
    >
    {#if one.units && !one.booked}<a class="underline" href="#/classes/{one.lesson}/run">Run it</a>{/if}</span
  >
{:else if session.mayReview}<button class="underline" onclick={open}>Plan it</button>
{:else}<span class="soft">not planned yet</span>{/if}
{#if asking.failure}<p class="notice bad mt-1" role="alert">{asking.failure}</p>{/if}
