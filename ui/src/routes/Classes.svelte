<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { sure } from '../lib/parts/asked.svelte'
  import { longDay } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'
  import Feed from '../lib/plan/Feed.svelte'
  import Members from '../lib/plan/Members.svelte'
  import PlanButton from '../lib/plan/PlanButton.svelte'
  import WeeklyForm from '../lib/plan/WeeklyForm.svelte'
  import { timeOf, WEEKDAYS } from '../lib/plan/words'

  /** The week: what is held when, called off or moved; who belongs to which class; and one’s own calendar. */
  type Weekly = Schemas['WeeklyOut']
  type OnDay = Schemas['OnDayOut']
  const queries = useQueryClient()
  const asking = new Asking()
  const calendar = createQuery(() => ({
    queryKey: ['calendar'],
    queryFn: () => unwrap(client.GET('/api/calendar')),
  }))
  const data = $derived(calendar.data)
  const days = $derived([...new Set((data?.classes ?? []).map((one) => one.on))])
  let editing = $state<Weekly | 'new' | null>(null)
  let members = $state<Weekly | null>(null)
  let moving = $state('')
  let to = $state('')
  const again = () => queries.invalidateQueries({ queryKey: ['calendar'] })
  const keyOf = (one: OnDay) => `${one.weekly} ${one.planned_on}`
  const at = (one: { weekly?: string | null; planned_on?: string | null }) => ({
    params: { path: { weekly_id: one.weekly ?? '', planned_on: one.planned_on ?? '' } },
  })
  const except = (one: OnDay, moved_to: string | null) =>
    asking.run(async () => {
      await unwrap(
        client.PUT('/api/classes/weekly/{weekly_id}/days/{planned_on}', { ...at(one), body: { moved_to, why: '' } }),
      )
      moving = to = ''
      await again()
    })
  const asUsual = (one: Schemas['ExceptionOut']) =>
    asking.run(async () => {
      await unwrap(client.DELETE('/api/classes/weekly/{weekly_id}/days/{planned_on}', at(one)))
      await again()
    })
  async function remove(one: Weekly): Promise<void> {
    if (!(await sure(`Delete “${one.name}”?`, 'Classes that were planned and held stay. This cannot be undone.')))
      return
    await asking.run(async () => {
      await unwrap(client.DELETE('/api/classes/weekly/{weekly_id}', { params: { path: { weekly_id: one.id } } }))
      await again()
    })
  }
</script>

<div class="mx-auto max-w-6xl px-5 py-6">
  <div class="flex flex-wrap items-baseline gap-x-6">
    <h1>Classes</h1>
    <a class="underline text-sm" href="#/curriculum">Curriculum</a>
    <a class="underline text-sm" href="#/rounds">Rounds and games</a>
  </div>
  {#if calendar.error}<p class="notice bad mt-3" role="alert">{calendar.error.message}</p>{/if}
  {#if asking.failure}<p class="notice bad mt-3" role="alert">{asking.failure}</p>{/if}
  {#if data}
    <div class="mt-4 grid gap-x-10 gap-y-8 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <section aria-label="The next four weeks">
        <h2>The next four weeks</h2>
        {#if days.length === 0}<p class="notice mt-2">
            No class yet. Add one that is held every week: then you plan it, run it at the mat, and book who came.
          </p>{/if}
        {#each days as on (on)}
          <div class="mt-3">
            <p class="num text-sm" class:font-semibold={on === data.today} class:soft={on < data.today}>
              {longDay(on)}{on === data.today ? ', today' : ''}
            </p>
            {#each data.classes.filter((one) => one.on === on) as one (`${keyOf(one)} ${one.lesson}`)}
              <div class="rule-b flex flex-wrap items-baseline gap-x-4 py-1.5" data-class={one.name} data-on={on}>
                <span class="num">{timeOf(one.at)}</span><b>{one.name}</b>
                <span class="soft text-sm">{one.minutes} min{one.moved ? ', moved' : ''}</span>
                <span class="ml-auto text-sm"><PlanButton {one} /></span>
                {#if session.mayReview && one.weekly && one.on >= data.today && !one.booked}
                  {#if moving === keyOf(one)}
                    <span class="inline-flex items-center gap-2 text-sm"
                      ><input class="field num" type="date" bind:value={to} aria-label="New day" />
                      <button class="underline" disabled={!to} onclick={() => except(one, to)}>Move</button>
                      <button class="underline" onclick={() => except(one, null)}>Call off</button>
                      <button class="underline" onclick={() => (moving = '')}>Cancel</button></span
                    >
                  {:else}<button class="soft text-sm underline" onclick={() => (moving = keyOf(one))}
                      >Move or call off</button
                    >{/if}
                {/if}
              </div>
            {/each}
          </div>
        {/each}
        {#if data.exceptions.length}
          <h2 class="mt-6">Otherwise than usual</h2>
          {#each data.exceptions as one (`${one.weekly}${one.planned_on}`)}
            <p class="rule-b flex flex-wrap gap-x-3 py-1 text-sm">
              <span>{one.name}, {longDay(one.planned_on)}:</span>
              <span>{one.moved_to ? `moved to ${longDay(one.moved_to)}` : 'called off'}</span>
              {#if session.mayReview}<button class="ml-auto underline" onclick={() => asUsual(one)}
                  >Hold as usual</button
                >{/if}
            </p>
          {/each}
        {/if}
      </section>
      <aside>
        <section aria-label="Weekly classes">
          <div class="flex items-baseline justify-between">
            <h2>Every week</h2>
            {#if session.mayReview}<button class="button text-sm" onclick={() => (editing = 'new')}>Add a class</button
              >{/if}
          </div>
          {#each data.weekly as one (one.id)}
            <div class="rule-b py-2" data-weekly={one.name}>
              <b>{one.name}</b>
              <p class="soft num text-sm">{WEEKDAYS[one.weekday]} {timeOf(one.at)}, {one.minutes} min</p>
              <p class="soft text-sm">
                {one.members.length}
                {one.members.length === 1 ? 'member' : 'members'}, {one.mats} pairs at once{one.for_children
                  ? ', children'
                  : ''}
              </p>
              {#if session.mayReview}<p class="mt-1 flex gap-4 text-sm">
                  <button class="underline" onclick={() => (members = one)}>Members</button>
                  <button class="underline" onclick={() => (editing = one)}>Change</button>
                  <button class="underline" onclick={() => remove(one)}>Delete</button>
                </p>{/if}
            </div>
          {/each}
        </section>
        <Feed own />
      </aside>
    </div>
    {#if editing}{#key editing}<WeeklyForm
          weekly={editing === 'new' ? null : editing}
          today={data.today}
          done={() => {
            editing = null
            void again()
          }}
        />{/key}{/if}
    {#if members}{#key members.id}<Members
          weekly={members}
          people={data.people}
          done={() => {
            members = null
            void again()
          }}
        />{/key}{/if}
  {:else if calendar.isPending}<p class="soft mt-4">Opening…</p>{/if}
</div>
