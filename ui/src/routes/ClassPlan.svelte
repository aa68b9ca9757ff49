<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { sure } from '../lib/parts/asked.svelte'
  import { longDay } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'
  import Booking from '../lib/plan/Booking.svelte'
  import Coming from '../lib/plan/Coming.svelte'
  import Pairs from '../lib/plan/Pairs.svelte'
  import Teaching from '../lib/plan/Teaching.svelte'
  import Units from '../lib/plan/Units.svelte'
  import { timeOf } from '../lib/plan/words'

  /** A class from its plan to its booking: who comes, what is taught, its units, its pairs. */
  let { params }: { params: { lesson: string } } = $props()
  type Change = Omit<Schemas['LessonChange'], 'version'>
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['class', params.lesson])
  const path = $derived({ params: { path: { lesson_id: params.lesson } } })
  const lesson = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/classes/{lesson_id}', path)),
  }))
  const data = $derived(lesson.data)
  const may = $derived(session.mayReview && !data?.booked_at)
  let booking = $state(false)

  /** What is under way: the next act begins when it has ended, from the version that it made. */
  let line: Promise<unknown> = Promise.resolve()
  const done = (ask: () => Promise<Schemas['ClassOut']>) => {
    line = line.then(() => answered(ask))
    return line
  }
  const answered = (ask: () => Promise<Schemas['ClassOut']>) =>
    asking.run(async () => {
      try {
        queries.setQueryData(key, await ask())
      } catch (error) {
        // What somebody else changed meanwhile is shown, so that the next try starts from it.
        await queries.invalidateQueries({ queryKey: key })
        throw error
      }
      await queries.invalidateQueries({ queryKey: ['teachable', params.lesson] })
    })
  const version = () => ({ version: queries.getQueryData<Schemas['ClassOut']>(key)?.version ?? 1 })
  const change = (body: Change) =>
    done(() => unwrap(client.PATCH('/api/classes/{lesson_id}', { ...path, body: { ...version(), ...body } })))
  const make = () => done(() => unwrap(client.POST('/api/classes/{lesson_id}/make', { ...path, body: version() })))
  const pair = () => done(() => unwrap(client.POST('/api/classes/{lesson_id}/pairs', { ...path, body: version() })))
  async function remove(): Promise<void> {
    if (!(await sure('Delete this class?', 'Its plan goes, and what was booked of it. This cannot be undone.'))) return
    await asking.run(async () => {
      await unwrap(client.DELETE('/api/classes/{lesson_id}', path))
      location.hash = '#/classes'
    })
  }
  const filled = $derived((data?.units ?? []).reduce((sum, unit) => sum + unit.minutes, 0))
</script>

<div class="mx-auto max-w-6xl px-5 py-6">
  {#if lesson.error}<p class="notice bad" role="alert">
      {lesson.error.message} <a class="underline" href="#/classes">Back to the classes</a>
    </p>{/if}
  {#if data}
    <div class="flex flex-wrap items-baseline gap-x-5 gap-y-2">
      <h1>{data.name}</h1>
      <span class="soft num">{longDay(data.held_on)}, {timeOf(data.at)}</span>
      {#if data.booked_at}<span class="soft">booked</span>{/if}
      <span class="ml-auto flex flex-wrap items-center gap-3 print:hidden">
        <button class="button" onclick={() => window.print()}>Print</button>
        {#if data.units.length && !data.booked_at}<a class="button main" href="#/classes/{data.id}/run">Run it</a>{/if}
        {#if session.mayReview && data.held_on <= data.today}<button class="button" onclick={() => (booking = true)}
            >{data.booked_at ? 'Book anew' : 'Book it'}</button
          >{/if}
      </span>
    </div>
    {#if asking.failure}<p class="notice bad mt-3" role="alert">{asking.failure}</p>{/if}
    <div class="mt-4 grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_20rem] print:block">
      <div class="min-w-0">
        {#key data.id}<Teaching
            lesson={data.id}
            teach={data.teach}
            children={data.for_children}
            {may}
            changed={(teach) => change({ teach })}
          />{/key}
        <div class="mt-5 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h2>Plan</h2>
          <span class="num text-sm" class:soft={filled === data.minutes} data-testid="filled"
            >{filled} of {data.minutes} minutes</span
          >
          {#if may}
            <label class="soft text-sm print:hidden"
              >class of <input
                class="field num w-16"
                type="number"
                min="1"
                max="600"
                value={data.minutes}
                onchange={(event) => void change({ minutes: Number(event.currentTarget.value) })}
              /> min</label
            >
            <button class="button print:hidden" class:main={!data.units.length} onclick={make}
              >{data.units.length ? 'Make it again' : 'Make the plan'}</button
            >
          {/if}
        </div>
        {#if !data.units.length}<p class="notice mt-2">
            Say what you teach and who comes, then make the plan: it fills the minutes with falls, the layers you teach,
            stations for faults that several share, and rounds.
          </p>{/if}
        <Units units={data.units} start={data.at} people={data.coming} {may} changed={(units) => change({ units })} />
      </div>
      <div class="min-w-0">
        <Coming coming={data.coming} {may} changed={(coming) => change({ coming })} />
        <Pairs {data} {may} make={pair} changed={(pairs) => change({ pairs })} />
        {#if session.mayReview}<button class="soft mt-8 text-sm underline print:hidden" onclick={remove}
            >Delete this class</button
          >{/if}
      </div>
    </div>
    {#if booking}<Booking
        {data}
        done={(next) => {
          booking = false
          if (next) queries.setQueryData(key, next)
        }}
      />{/if}
  {:else if lesson.isPending}<p class="soft">Opening…</p>{/if}
</div>
