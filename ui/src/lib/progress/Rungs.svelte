<script lang="ts">
  import { DECISIONS } from '../parts/labels'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { longDay, spoken } from '../parts/words'
  import RungTimeline from './RungTimeline.svelte'

  interface Props {
    student: string
  }
  let { student }: Props = $props()
  type Standing = Schemas['StandingOut']
  const queries = useQueryClient()
  const key = $derived(['rungs', student])
  const rungs = createQuery(() => ({
    queryKey: key,
    queryFn: () =>
      unwrap(client.GET('/api/students/{student_id}/rungs', { params: { path: { student_id: student } } })),
  }))
  const partner = createQuery(() => ({
    queryKey: [...key, 'partner'],
    queryFn: () =>
      unwrap(client.GET('/api/students/{student_id}/as-partner', { params: { path: { student_id: student } } })),
  }))
  const ADVICE: Record<Standing['advice'], string> = {
    advance: `↑ ${DECISIONS.advance}`,
    hold: `= ${DECISIONS.hold}`,
    step_back: `↓ ${DECISIONS.step_back}`,
  }
  let open = $state<string | null>(null)
  let why = $state('')
  const asking = new Asking()

  const doing = (work: () => Promise<unknown>) =>
    asking.run(async () => {
      await work()
      await queries.invalidateQueries({ queryKey: key })
      // What was passed may be asked for by a grade.
      await queries.invalidateQueries({ queryKey: ['grades'] })
    })
  const path = (one: Standing) => ({ params: { path: { student_id: student, technique: one.technique } } })
  const say = (one: Standing, who: string, value: string) =>
    doing(() =>
      unwrap(
        client.PUT('/api/students/{student_id}/rungs/{technique}/sure', {
          ...path(one),
          body: { who: who as 'performer' | 'partner', sure: value === '' ? null : value === 'yes' },
        }),
      ),
    )
  const decide = (one: Standing, decision: Standing['advice']) =>
    doing(async () => {
      await unwrap(
        client.POST('/api/students/{student_id}/rungs/{technique}/decision', { ...path(one), body: { decision, why } }),
      )
      why = ''
    })
</script>

{#if rungs.data?.length}
  <h2 class="mt-8">Rungs</h2>
  {#if partner.data}
    <p class="mb-1 text-sm" data-testid="as-partner">
      As a partner:
      {#if partner.data.rungs.length}may be thrown at {partner.data.rungs.map(spoken).join(', ')}, where the fall fits
        the throw ({partner.data.passed
          .map((one) => `${spoken(one.fall)} passed up to ${spoken(one.rung)}`)
          .join('; ')}).
      {:else}<b style="color: var(--alarm)">not to be thrown yet.</b>
        <span class="soft"
          >{partner.data.passed.length
            ? `${partner.data.passed.map((one) => `${spoken(one.fall)} passed up to ${spoken(one.rung)}`).join('; ')}; a throw asks for one standing.`
            : 'No fall was passed so far: falls first, under supervision.'}</span
        >{/if}
    </p>
  {/if}
  {#if asking.failure}<p class="notice bad mt-1" role="alert">{asking.failure}</p>{/if}
  <ul style="border-top: 2px solid var(--ink)">
    {#each rungs.data as one (one.technique)}
      <li class="rule-b py-2 text-sm" data-rungs={one.technique} data-advice={one.advice}>
        <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <button
            class="w-52 text-left font-semibold"
            aria-expanded={open === one.technique}
            onclick={() => (open = open === one.technique ? null : one.technique)}>{one.name}</button
          >
          <ol class="flex flex-wrap gap-1" aria-label="Ladder">
            {#each one.ladder as rung (rung)}<li
                class="rung"
                class:here={rung === one.rung}
                class:done={one.ladder.indexOf(rung) < one.ladder.indexOf(one.rung)}
                aria-current={rung === one.rung ? 'step' : undefined}
              >
                {spoken(rung)}
              </li>{/each}
          </ol>
          <span class="ml-auto font-semibold whitespace-nowrap advice {one.advice}">{ADVICE[one.advice]}</span>
        </div>
        <p class="soft mt-0.5">{one.because}.</p>
        {#if one.withheld}<p class="mt-0.5" style="color: var(--alarm)">
            <b>Falls first:</b> nobody has passed a {one.falls.map(spoken).join(' or a ')} for this rung; it is not practised
            with a thrown partner.
          </p>
        {:else if one.falls.length}<p class="soft mt-0.5">
            May be thrown here: {one.may_be_thrown.join(', ')} ({one.falls.map(spoken).join(' or ')} passed).
          </p>{/if}
        {#if open === one.technique}
          <div class="mt-2 grid gap-3 pl-4 sm:grid-cols-[1fr_20rem]">
            <div>
              <p class="soft text-xs">on this rung in 60 days: <span class="num">{one.reps}</span> reps</p>
              <ul>
                {#each one.criteria as criterion (criterion.words)}<li>
                    <span aria-hidden="true">{criterion.holds ? '✓' : '✗'}</span><span class="sr-only"
                      >{criterion.holds ? 'holds:' : 'does not hold:'}</span
                    >
                    {criterion.words}
                  </li>{/each}
              </ul>
              {#if one.cautions.length}<ul class="mt-1 list-disc pl-5 text-xs" style="color: var(--alarm)">
                  {#each one.cautions as caution (caution)}<li>{caution}</li>{/each}
                </ul>{/if}
            </div>
            <div class="grid content-start gap-2">
              {#each Object.entries(one.sure) as [who, said] (who)}
                <label class="flex items-center gap-2"
                  >{who} feels
                  <select
                    class="field"
                    value={said === null ? '' : said ? 'yes' : 'no'}
                    onchange={(event) => void say(one, who, event.currentTarget.value)}
                    ><option value="">not asked yet</option><option value="yes">sure</option><option value="no"
                      >unsure</option
                    ></select
                  ></label
                >
              {/each}
              <label
                ><span class="soft text-xs">Why (asked for where you decide otherwise)</span><input
                  class="field w-full"
                  maxlength="400"
                  bind:value={why}
                /></label
              >
              <div class="flex gap-2">
                {#each ['advance', 'hold', 'step_back'] as const as decision (decision)}<button
                    class="button"
                    class:main={decision === one.advice}
                    onclick={() => void decide(one, decision)}>{spoken(decision)}</button
                  >{/each}
              </div>
            </div>
          </div>
          <div class="pl-4"><RungTimeline standing={one} /></div>
          {#if one.decisions.length}
            <ul class="mt-2 pl-4" aria-label="What was decided">
              {#each one.decisions as made, i (i)}<li class="soft">
                  <span class="num">{longDay(made.decided_on)}</span>: {spoken(made.decision)}, {spoken(
                    made.from_rung,
                  )}{made.to_rung === made.from_rung ? '' : ` → ${spoken(made.to_rung)}`}{made.why
                    ? `: “${made.why}”`
                    : ''}{made.decision === made.advice
                    ? ''
                    : ` (recommended: ${spoken(made.advice)}, ${made.because})`}
                </li>{/each}
            </ul>
          {/if}
        {/if}
      </li>
    {/each}
  </ul>
{/if}

<style>
  .rung {
    border: 1px solid var(--rule);
    padding: 0 0.45rem;
    font-size: 0.8rem;
  }
  .rung.done {
    background: var(--band);
  }
  .rung.here {
    background: var(--performer);
    border-color: var(--performer);
    color: var(--page);
    font-weight: 650;
  }
  .advice.advance {
    color: var(--met);
  }
  .advice.step_back {
    color: var(--alarm);
  }
</style>
