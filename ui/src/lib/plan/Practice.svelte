<script lang="ts">
  import OverTime from '../charts/OverTime.svelte'
  import { noon } from '../charts/shapes'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { day, longDay } from '../parts/words'
  import { session } from '../people/session.svelte'
  import Prescribe from './Prescribe.svelte'
  import { helpedWords } from './words'

  /** What a student practises, how much of it was done, and whether the fault went away meanwhile. */
  let { student, faults }: { student: string; faults: readonly Schemas['FaultOut'][] } = $props()
  type Prescription = Schemas['PrescriptionOut']
  const WHERE = { class: 'in class', home: 'at home' } as Record<string, string>
  const WHY = {
    done: 'done',
    replaced: 'made room for another one',
    pain: 'stopped: something hurt',
    cleared: 'the fault has cleared',
    stopped: 'stopped',
  } as Record<string, string>
  const queries = useQueryClient()
  const asking = new Asking()
  const path = $derived({ params: { path: { student_id: student } } })
  const practice = createQuery(() => ({
    queryKey: ['practice', student],
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/practice', path)),
  }))
  const data = $derived(practice.data)
  let adding = $state('')
  const added = $derived(faults.find((one) => `${one.technique} ${one.fault}` === adding))
  const drills = createQuery(() => ({
    queryKey: ['drills', adding],
    enabled: added !== undefined,
    queryFn: () =>
      unwrap(
        client.GET('/api/techniques/{technique}/drills', {
          params: { path: { technique: added?.technique ?? '' }, query: { fault: added?.fault ?? '' } },
        }),
      ),
  }))
  const today = () => new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 10)
  const again = () => queries.invalidateQueries({ queryKey: ['practice', student] })
  const enter = (one: Prescription) =>
    asking.run(async () => {
      await unwrap(
        client.POST('/api/students/{student_id}/practice', {
          ...path,
          body: { prescription: one.id, on: today(), place: 'class', pain: false, words: '' },
        }),
      )
      await again()
    })
  const end = (one: Prescription, why: 'done' | 'stopped') =>
    asking.run(async () => {
      await unwrap(
        client.POST('/api/prescriptions/{prescription_id}/end', {
          params: { path: { prescription_id: one.id } },
          body: { why },
        }),
      )
      await again()
    })
  const change = (one: Prescription, times_a_week: number) =>
    asking.run(async () => {
      await unwrap(
        client.PATCH('/api/prescriptions/{prescription_id}', {
          params: { path: { prescription_id: one.id } },
          body: { times_a_week },
        }),
      )
      await again()
    })
  const percent = (share: number) => `${Math.round(100 * share)} %`
  const SIDES = { both: '', left: ', left side only', right: ', right side only' }
  const weeks = $derived(
    (data?.weeks ?? []).map(({ until, kept }) => ({
      on: noon(until),
      value: kept.share,
      low: kept.share,
      high: kept.share,
      words: `${percent(kept.share)}, ${kept.done} of ${Math.round(kept.prescribed)}`,
    })),
  )
</script>

{#snippet followed(one: Prescription)}
  {#each one.helped as told (told.fault)}
    <p class="text-sm" class:soft={told.verdict === 'too_little' || told.verdict === 'not_yet'}>
      “{told.ask}”: <span style:color={told.verdict === 'worse' ? 'var(--alarm)' : null}>{helpedWords(told)}</span>
    </p>
  {/each}
  {#each one.clips as clip (clip.clip)}
    <p class="soft text-sm">
      <a class="underline" href="#/bench/{clip.clip}">{clip.name}</a>, {day(clip.on)}:
      <span class="num">{clip.reps}</span>
      counted{clip.reviewed ? '' : ', not reviewed'}
    </p>
  {/each}
{/snippet}

<section class="mt-8" aria-label="Practice">
  <div class="flex flex-wrap items-baseline gap-x-4">
    <h2>Practice</h2>
    {#if data?.adherence}<span class="soft text-sm"
        ><span class="num">{percent(data.adherence.share)}</span> of what is prescribed was done in the last 28 days</span
      >{/if}
    {#if data?.next_day}<span class="soft text-sm">next class {longDay(data.next_day)}</span>{/if}
  </div>
  {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
  {#if (data?.weeks.length ?? 0) > 1}
    <OverTime
      series={[{ name: 'Done of what was prescribed', points: weeks }]}
      label="Done of what was prescribed, by week"
      caption="Done of what was prescribed, week by week."
      ticks={[0, 0.5, 1]}
      format={percent}
      dayWords={(on) => on.toLocaleDateString('en', { day: 'numeric', month: 'short' })}
      gapDays={8}
      testid="adherence"
    />
  {/if}
  {#if data && data.open.length === 0}<p class="soft mt-1 text-sm">Nothing is prescribed.</p>{/if}
  <ul>
    {#each data?.open ?? [] as one (one.id)}
      <li class="rule-b py-2.5" data-prescription={one.name}>
        <div class="flex flex-wrap items-baseline gap-x-4">
          <b>{one.name}</b>
          <span class="text-sm">{one.dose_words}{SIDES[one.side]}, {one.minutes} min</span>
          <span class="soft text-sm">{one.technique_name}, since {day(one.since)} {one.by ? `by ${one.by}` : ''}</span>
          {#if one.kept}<span class="ml-auto text-sm"
              ><span class="num">{one.kept.done} of {Math.round(one.kept.prescribed)}</span> done</span
            >{/if}
        </div>
        {#if one.how}<p class="soft text-sm">{one.how}</p>{/if}
        {#if one.partner_task}<p class="soft text-sm">Partner: {one.partner_task}</p>{/if}
        {@render followed(one)}
        <div class="mt-1 flex flex-wrap items-center gap-4 text-sm">
          <button class="underline" onclick={() => enter(one)}>Done once today</button>
          {#if session.mayReview}
            <label class="inline-flex items-center gap-1"
              ><input
                class="field num w-14"
                type="number"
                min="1"
                max="21"
                value={one.times_a_week}
                onchange={(event) => void change(one, Number(event.currentTarget.value))}
              />times a week</label
            >
            <button class="underline" onclick={() => end(one, 'done')}>It is enough</button>
            <button class="underline" onclick={() => end(one, 'stopped')}>Stop</button>
          {/if}
        </div>
      </li>
    {/each}
  </ul>
  {#if session.mayReview && faults.length}
    <div class="mt-2 text-sm">
      <label
        >Prescribe something for
        <select class="field ml-1" bind:value={adding}>
          <option value="">choose a fault…</option>
          {#each faults as one (`${one.technique} ${one.fault}`)}<option value="{one.technique} {one.fault}"
              >{one.technique_name}: {one.ask}</option
            >{/each}
        </select></label
      >
      {#if added && drills.data}<div class="mt-2">
          <Prescribe
            {student}
            technique={added.technique}
            fault={added.fault}
            drills={drills.data}
            prescribed={data?.open.map((one) => one.name) ?? []}
            done={() => (adding = '')}
          />
        </div>{/if}
    </div>
  {/if}
  {#if data?.ended.length}
    <details class="mt-3 text-sm">
      <summary>Ended ({data.ended.length})</summary>
      <ul>
        {#each data.ended as one (one.id)}
          <li class="rule-b py-1.5" data-ended={one.name}>
            <b>{one.name}</b>
            <span class="soft"
              >{day(one.since)} to {day(one.ended_on ?? one.since)}, {WHY[one.ended_why] ?? one.ended_why}</span
            >
            {@render followed(one)}
          </li>
        {/each}
      </ul>
    </details>
  {/if}
  {#if data?.log.length}
    <details class="mt-2 text-sm">
      <summary>Log</summary>
      <ul>
        {#each data.log as one (one.id)}
          <li class="rule-b flex flex-wrap gap-x-3 py-1">
            <span class="num soft">{day(one.done_on)}</span>
            {one.name}
            {#if one.amount}<span class="num">{one.amount}</span>{/if}
            <span class="soft">{WHERE[one.place]}{one.felt ? `, felt ${one.felt}` : ''}</span>
            {#if one.pain}<span style:color="var(--alarm)">hurt</span>{/if}
            {one.words}
          </li>
        {/each}
      </ul>
    </details>
  {/if}
</section>
