<script lang="ts">
  import Combobox from '../lib/parts/Combobox.svelte'
  import { sure } from '../lib/parts/asked.svelte'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { day, spoken } from '../lib/parts/words'

  /** What each grade asks: techniques with the rung that is to be passed, last taught, last filmed, and who
   * lacks it. */
  const queries = useQueryClient()
  const grades = createQuery(() => ({ queryKey: ['grades'], queryFn: () => unwrap(client.GET('/api/grades')) }))
  const techniques = createQuery(() => ({
    queryKey: ['techniques'],
    queryFn: () => unwrap(client.GET('/api/techniques')),
  }))
  let name = $state('')
  let adding = $state<string | null>(null)
  let technique = $state('')
  let rung = $state('')
  const asking = new Asking()
  const ladder = $derived(techniques.data?.find((one) => one.id === technique)?.ladder ?? [])
  const today = () => new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 10)

  const done = (answer: Promise<Schemas['GradeOut'][]>) =>
    asking.run(async () => {
      queries.setQueryData(['grades'], await answer)
      await queries.invalidateQueries({ queryKey: ['grades', 'of'] })
    })
  const path = (grade: Schemas['GradeOut']) => ({ params: { path: { grade_id: grade.id } } })
  const at = (grade: Schemas['GradeOut'], one: string) => ({ params: { path: { grade_id: grade.id, technique: one } } })
  async function add(event: Event): Promise<void> {
    event.preventDefault()
    if (await done(unwrap(client.POST('/api/grades', { body: { name } })))) name = ''
  }
  async function ask(event: Event, grade: Schemas['GradeOut']): Promise<void> {
    event.preventDefault()
    if (
      await done(
        unwrap(
          client.PUT('/api/grades/{grade_id}/techniques/{technique}', { ...at(grade, technique), body: { rung } }),
        ),
      )
    )
      technique = rung = ''
  }
  async function remove(grade: Schemas['GradeOut']): Promise<void> {
    if (await sure(`Delete “${grade.name}”?`, 'Students who work towards it then work towards no grade.'))
      void done(unwrap(client.DELETE('/api/grades/{grade_id}', path(grade))))
  }
  const change = (grade: Schemas['GradeOut'], body: { name?: string; up?: boolean }) =>
    void done(unwrap(client.PATCH('/api/grades/{grade_id}', { ...path(grade), body })))
  const taught = (one: string, on: string | null) =>
    void done(
      on
        ? unwrap(client.DELETE('/api/taught/{technique}/{on}', { params: { path: { technique: one, on } } }))
        : unwrap(client.PUT('/api/taught/{technique}/{on}', { params: { path: { technique: one, on: today() } } })),
    )
</script>

<div class="mx-auto max-w-6xl px-4 py-6">
  <h1>Grades</h1>
  <p class="soft text-sm">
    What each grade asks: techniques, each with the rung that is to be passed. A rung is passed when you let a student
    advance from it on their page.
  </p>
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  {#if grades.error}<p class="notice bad mt-2" role="alert">{grades.error.message}</p>{/if}
  {#each grades.data ?? [] as grade, i (grade.id)}
    <section class="mt-6" aria-label={grade.name} data-grade={grade.name}>
      <div class="flex flex-wrap items-baseline gap-x-4 text-sm">
        <input
          class="field w-48 font-semibold"
          value={grade.name}
          maxlength="80"
          aria-label="Name of this grade"
          onchange={(event) => change(grade, { name: event.currentTarget.value })}
        />
        <span class="soft"
          ><span class="num">{grade.students}</span>
          {grade.students === 1 ? 'student works' : 'students work'} towards it</span
        >
        <span class="ml-auto flex gap-3">
          <button class="underline disabled:opacity-40" disabled={i === 0} onclick={() => change(grade, { up: true })}
            >earlier</button
          >
          <button
            class="underline disabled:opacity-40"
            disabled={i === (grades.data?.length ?? 0) - 1}
            onclick={() => change(grade, { up: false })}>later</button
          >
          <button class="underline" onclick={() => remove(grade)}>Delete</button>
        </span>
      </div>
      <div class="overflow-x-auto">
        <table class="mt-1 w-full text-sm" style="border-top: 2px solid var(--ink)">
          <thead
            ><tr class="rule-b soft text-left text-xs"
              ><th class="w-56 py-1 font-normal">technique</th><th class="w-40 px-2 font-normal">asked</th><th
                class="w-52 px-2 font-normal">last taught</th
              ><th class="w-28 px-2 font-normal">last filmed</th><th class="px-2 font-normal">lacking</th><th
                class="w-20"
              ></th></tr
            ></thead
          >
          <tbody>
            {#each grade.asked as one (one.technique)}
              <tr class="rule-b" data-asked={one.technique}>
                <td class="py-1.5 pr-3"><a class="font-semibold" href="#/techniques/{one.technique}">{one.name}</a></td>
                <td class="px-2"
                  ><select
                    class="field"
                    value={one.rung}
                    aria-label="Rung of {one.name}"
                    onchange={(event) =>
                      void done(
                        unwrap(
                          client.PUT('/api/grades/{grade_id}/techniques/{technique}', {
                            ...at(grade, one.technique),
                            body: { rung: event.currentTarget.value },
                          }),
                        ),
                      )}
                    >{#each one.ladder as step (step)}<option value={step}>{spoken(step)}</option>{/each}</select
                  ></td
                >
                <td class="px-2 whitespace-nowrap"
                  >{#if one.last_taught === today()}<span class="num">today</span>
                    <button class="underline" onclick={() => taught(one.technique, one.last_taught)}>undo</button
                    >{:else}<span class="num">{one.last_taught ? day(one.last_taught) : 'never'}</span>
                    <button class="underline" onclick={() => taught(one.technique, null)}>mark as taught today</button
                    >{/if}</td
                >
                <td class="num px-2">{one.last_filmed ? day(one.last_filmed) : 'never'}</td>
                <td class="px-2"
                  >{#if grade.students === 0}<span class="soft">–</span>{:else if one.lacking.length === 0}<span
                      style="color: var(--met)">✓ nobody</span
                    >{:else}<b class="num">{one.lacking.length}</b>
                    <span class="soft">{one.lacking.slice(0, 4).join(', ')}{one.lacking.length > 4 ? '…' : ''}</span
                    >{/if}</td
                >
                <td class="text-right"
                  ><button
                    class="underline"
                    aria-label="Remove {one.name}"
                    onclick={() =>
                      void done(
                        unwrap(
                          client.DELETE('/api/grades/{grade_id}/techniques/{technique}', at(grade, one.technique)),
                        ),
                      )}>Remove</button
                  ></td
                >
              </tr>
            {:else}<tr class="rule-b"><td colspan="6" class="soft py-2">No techniques yet.</td></tr>{/each}
          </tbody>
        </table>
      </div>
      {#if adding === grade.id}
        <form class="mt-2 flex flex-wrap items-end gap-3 text-sm" onsubmit={(event) => void ask(event, grade)}>
          <div>
            <span aria-hidden="true">Technique</span><Combobox
              label="Technique"
              items={(techniques.data ?? []).map((one) => ({ value: one.id, label: one.name, also: one.aliases }))}
              value={technique}
              changed={(id) => ((technique = id), (rung = ''))}
              required
              testid="grade-technique"
            />
          </div>
          <label
            >Rung<br /><select class="field" bind:value={rung} required disabled={!technique}
              ><option value="" disabled>choose</option>{#each ladder as step (step)}<option value={step}
                  >{spoken(step)}</option
                >{/each}</select
            ></label
          >
          <button class="button main" disabled={!technique || !rung}>Add</button>
          <button type="button" class="underline" onclick={() => (adding = null)}>Done</button>
        </form>
      {:else}<button class="mt-1 text-sm underline" onclick={() => ((adding = grade.id), (technique = rung = ''))}
          >Add a technique</button
        >{/if}
    </section>
  {:else}
    {#if grades.isSuccess}<p class="notice mt-4">
        No grades yet. Name the first one below, then say which techniques it asks for and on which rung. Each student’s
        page then tells what is lacking.
      </p>{/if}
  {/each}
  <form class="mt-8 flex flex-wrap items-end gap-2 text-sm" onsubmit={(event) => void add(event)}>
    <label
      >New grade<br /><input class="field w-56" maxlength="80" bind:value={name} required placeholder="Yellow" /></label
    >
    <button class="button">Add</button>
  </form>
</div>
