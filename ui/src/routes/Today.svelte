<script lang="ts">
  import CalendarDays from '@lucide/svelte/icons/calendar-days'
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { session } from '../lib/people/session.svelte'
  import PlanButton from '../lib/plan/PlanButton.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import { longDay } from '../lib/parts/words'
  import { actOf, timeOf } from '../lib/plan/words'

  /** What there is to do today, for the minutes at hand: one key opens the next item where the work is. */
  type Minutes = 'all' | '10' | '20' | '40'
  let minutes = $state<Minutes>((sessionStorage.getItem('minutes') as Minutes | null) ?? 'all')
  const today = createQuery(() => ({
    queryKey: ['today', minutes],
    queryFn: () =>
      unwrap(client.GET('/api/today', { params: { query: minutes === 'all' ? {} : { minutes: Number(minutes) } } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.looking ? 1500 : 30_000),
  }))
  const students = createQuery(() => ({
    queryKey: ['students'],
    queryFn: () => unwrap(client.GET('/api/students')),
  }))
  const data = $derived(today.data)
  const next = $derived(data?.chosen[0])
  function chosen(value: Minutes): void {
    minutes = value
    sessionStorage.setItem('minutes', value)
  }
  function pressed(event: KeyboardEvent): void {
    const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select, [role=dialog]')
    if (event.key === 'n' && !typing && !event.ctrlKey && !event.metaKey && !event.altKey && next)
      location.hash = `#${next.path}`
  }
  const overdue = (task: Schemas['DayTaskOut']) =>
    task.overdue_days === 0 ? 'today' : task.overdue_days === 1 ? '1 day overdue' : `${task.overdue_days} days overdue`
</script>

<svelte:window onkeydown={pressed} />

{#snippet item(task: Schemas['DayTaskOut'], number: number | null)}
  <li class="rule-b flex gap-4 py-3" data-task={task.id}>
    <span class="num soft w-6 shrink-0 pt-0.5 text-right">{number ?? ''}</span>
    <div class="min-w-0 grow">
      <div class="flex flex-wrap items-baseline gap-x-3">
        {#if task.reasons[0]?.student}<b>{task.reasons[0].student}</b>{/if}
        {#if task.safety}<span class="font-semibold" style:color="var(--alarm)">safety</span>{/if}
        <span class="soft num text-sm">{overdue(task)} · {task.minutes} min</span>
      </div>
      {#each task.reasons as reason (reason.words)}<p>{reason.words}</p>{/each}
    </div>
    <a class="button shrink-0 self-center" class:main={number === 1} href="#{task.path}"
      >{actOf(task.path)}{#if number === 1}<kbd class="max-sm:hidden">N</kbd>{/if}</a
    >
  </li>
{/snippet}

<div class="mx-auto max-w-6xl px-5 py-6">
  <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
    <h1>Today</h1>
    {#if data}<span class="soft">{longDay(data.on)}</span>{/if}
    <span class="ml-auto flex items-center gap-2 text-sm"
      >Minutes at hand
      <Segments
        label="Minutes at hand"
        choices={[
          ['10', '10'],
          ['20', '20'],
          ['40', '40'],
          ['all', 'all'],
        ]}
        value={minutes}
        changed={chosen}
        testid="minutes"
      /></span
    >
  </div>
  {#if today.error}<p class="notice bad mt-3" role="alert">{today.error.message}</p>{/if}
  {#if data}
    <div class="mt-4 grid gap-x-10 gap-y-8 lg:grid-cols-[minmax(0,1fr)_19rem]">
      <section aria-label="What to do">
        <h2>
          {data.chosen.length
            ? `${data.chosen.length + data.more_chosen} ${data.chosen.length === 1 ? 'thing' : 'things'} to do, ${data.minutes} minutes`
            : 'Nothing to do'}
        </h2>
        {#if data.chosen.length === 0}
          <p class="notice mt-2">
            {data.left.length
              ? 'Nothing fits into these minutes. What waits stands below.'
              : 'Nothing waits for you. Well done: plan the next class, or send in a clip.'}
          </p>
          {#if students.isSuccess && !students.data.length}<p class="mt-2">
              <b>Start with</b> <a class="underline" href="#/students">adding your students</a>{#if session.isOwner},
                and
                <a class="underline" href="#/people">invite your coaches</a>{/if}. Then
              <a class="underline" href="#/clips">send in a clip</a>.
            </p>{/if}
        {/if}
        <ol class="mt-2" style={data.chosen.length ? 'border-top: 2px solid var(--ink)' : ''} data-testid="chosen">
          {#each data.chosen as task, i (task.id)}{@render item(task, i + 1)}{/each}
        </ol>
        {#if data.more_chosen}<p class="soft mt-2 text-sm">And {data.more_chosen} more after these.</p>{/if}
        {#if data.left.length}
          <h2 class="mt-6">Does not fit today</h2>
          <ul class="mt-2" style="border-top: 2px solid var(--rule)" data-testid="left">
            {#each data.left as task (task.id)}{@render item(task, null)}{/each}
          </ul>
          {#if data.more_left}<p class="soft mt-2 text-sm">And {data.more_left} more after these.</p>{/if}
        {/if}
        {#if data.looking}<p class="soft mt-3 text-sm">
            Looking through {data.looking} more students…
          </p>{/if}
      </section>
      <aside>
        <section aria-label="Classes">
          <h2 class="flex items-center gap-2"><CalendarDays size={18} aria-hidden="true" />Classes</h2>
          {#if data.classes.length === 0}<p class="soft mt-1 text-sm">
              No class today or tomorrow. <a class="underline" href="#/classes">Add your weekly classes</a>.
            </p>{/if}
          <ul class="mt-1">
            {#each data.classes as one (`${one.weekly}${one.planned_on}${one.lesson}`)}
              <li class="rule-b py-2" data-class={one.name}>
                <span class="num">{timeOf(one.at)}</span> <b>{one.name}</b>
                <span class="soft text-sm">{one.on === data.on ? 'today' : 'tomorrow'}, {one.minutes} min</span>
                <div class="mt-1 text-sm"><PlanButton {one} /></div>
              </li>
            {/each}
          </ul>
        </section>
        <section class="mt-6" aria-label="What came in">
          <h2>What came in</h2>
          <ul class="mt-1 text-sm">
            <li>
              <a class="inline-block py-1 underline" href="#/inbox"
                ><span class="num">{data.waiting}</span>
                {data.waiting === 1 ? 'item waits' : 'items wait'} in the inbox</a
              >
            </li>
            <li>
              <a class="inline-block py-1 underline" href="#/clips"
                ><span class="num">{data.arrived}</span> {data.arrived === 1 ? 'clip' : 'clips'} in the last two days</a
              >
            </li>
          </ul>
        </section>
        <details class="soft mt-6 text-sm">
          <summary>How this is ordered</summary>
          <p class="mt-1">
            Safety first, then what is worth most: how grave it is, more with each day that it is overdue. Of the rest
            the set is chosen that is worth most in the minutes at hand. Reviews take as long as yours of the same
            technique took. Days and weights are conventions.
          </p>
        </details>
      </aside>
    </div>
  {:else if today.isPending}<p class="soft mt-4">Opening…</p>{/if}
</div>
