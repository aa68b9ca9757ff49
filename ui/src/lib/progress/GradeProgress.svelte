<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap } from '../api/client'
  import { day, spoken } from '../parts/words'

  /** Which grade a student works towards, and what is lacking. */
  let { student }: { student: string } = $props()
  const queries = useQueryClient()
  const path = $derived({ params: { path: { student_id: student } } })
  const grades = createQuery(() => ({ queryKey: ['grades'], queryFn: () => unwrap(client.GET('/api/grades')) }))
  const progress = createQuery(() => ({
    queryKey: ['grades', 'of', student],
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/grade', path)),
  }))
  const asking = new Asking()
  const held = $derived(progress.data?.held ?? [])
  const lacking = $derived(held.filter((one) => !one.passed).length)

  const towards = (grade: string) =>
    asking.run(async () => {
      await unwrap(client.PUT('/api/students/{student_id}/grade', { ...path, body: { grade: grade || null } }))
      await queries.invalidateQueries({ queryKey: ['grades'] })
    })
</script>

<section class="mt-8" aria-label="Grade">
  <div class="flex flex-wrap items-baseline gap-x-4">
    <h2>Grade</h2>
    {#if grades.data?.length}
      <label class="text-sm"
        >works towards <select
          class="field"
          value={progress.data?.grade ?? ''}
          onchange={(event) => void towards(event.currentTarget.value)}
          data-testid="grade"
          ><option value="">none</option>{#each grades.data as grade (grade.id)}<option value={grade.id}
              >{grade.name}</option
            >{/each}</select
        ></label
      >
      {#if progress.data}<span class="soft text-sm"
          >{held.length === 0
            ? 'it asks for nothing yet'
            : lacking === 0
              ? 'nothing is lacking'
              : `${lacking} of ${held.length} lacking`}</span
        >{/if}
    {:else if grades.isSuccess}<span class="soft text-sm"
        >No grades yet: <a class="underline" href="#/grades">say what each grade asks</a>, and what is lacking is told
        here.</span
      >{/if}
  </div>
  {#if asking.failure}<p class="notice bad text-sm" role="alert">{asking.failure}</p>{/if}
  {#if held.length}
    <table class="mt-1 w-full text-sm" style="border-top: 2px solid var(--ink)">
      <thead
        ><tr class="rule-b soft text-left text-xs"
          ><th class="py-1 font-normal">technique</th><th class="font-normal">asked</th><th class="font-normal"
            >passed</th
          ><th class="font-normal">last taught</th><th class="font-normal">last filmed</th></tr
        ></thead
      >
      <tbody>
        {#each held as one (one.technique)}
          <tr class="rule-b" data-held={one.technique} data-passed={one.passed}>
            <td class="py-1.5"><a class="font-semibold" href="#/techniques/{one.technique}">{one.name}</a></td>
            <td>{spoken(one.rung)}</td>
            <td style="color: {one.passed ? 'var(--met)' : 'var(--alarm)'}"
              ><span aria-hidden="true">{one.passed ? '✓' : '✗'}</span>
              {one.passed ? '' : 'lacking: '}{one.passed_to ? `up to ${spoken(one.passed_to)}` : 'no rung yet'}</td
            >
            <td class="num">{one.last_taught ? day(one.last_taught) : '–'}</td>
            <td class="num">{one.last_filmed ? day(one.last_filmed) : 'never'}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
