<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'
  import About from '../lib/lessons/About.svelte'
  import Adaptations from '../lib/lessons/Adaptations.svelte'
  import CorrectionPicture from '../lib/parts/CorrectionPicture.svelte'
  import { day, longDay, spoken } from '../lib/parts/words'

  let { params }: { params: { student: string } } = $props()
  const page = createQuery(() => ({
    queryKey: ['student', params.student],
    queryFn: () => unwrap(client.GET('/api/students/{student_id}', { params: { path: { student_id: params.student } } })),
    refetchInterval: (query) => (query.state.data?.corrections.some((c) => !c.has_still) ? 1000 : false),
  }))
  const data = $derived(page.data)
</script>

<div class="mx-auto max-w-5xl px-4 py-6">
  {#if page.error}<p class="notice bad" role="alert">{page.error.message}</p>{/if}
  {#if data}
    <h1>{data.student.name}</h1>
    {#if data.student.note}<p class="soft">{data.student.note}</p>{/if}

    <h2 class="mt-6">Faults over the dates</h2>
    {#if data.faults.length === 0}
      <p class="notice mt-2">Nothing has been missed in a finished review yet. Open a clip on the bench, judge its reps and finish the review: what was missed appears here.</p>
    {:else}
      <p class="soft text-sm">Each cell is missed of judged reps. Borderline counts only for a safety point.</p>
      <div class="mt-2 overflow-x-auto">
        <table class="w-full text-sm" style="border-top: 2px solid var(--ink)">
          <thead>
            <tr class="rule-b text-left">
              <th class="py-2 pr-3 font-semibold">Fault</th>
              {#each data.dates as on (on)}<th class="num px-2 text-center font-normal" title={longDay(on)}>{day(on)}</th>{/each}
              <th class="num py-2 pl-2 text-right font-semibold">in all</th>
            </tr>
          </thead>
          <tbody>
            {#each data.faults as fault (fault.technique + fault.checkpoint + fault.fault)}
              <tr class="rule-b" data-fault={fault.fault}>
                <td class="py-2 pr-3">
                  <span class="font-semibold">{spoken(fault.fault)}</span>
                  {#if fault.safety}<span class="ml-1 text-xs font-semibold" style="color: var(--alarm)">safety</span>{/if}
                  <br /><span class="soft">{fault.technique_name} · {fault.family}</span>
                </td>
                {#each data.dates as on (on)}
                  {@const found = fault.days.find((entry) => entry.on === on)}
                  <td class="num px-2 text-center" data-date={on}>
                    {#if !found}<span class="soft">·</span>
                    {:else if found.exposures === 0}
                      <span class="soft" title={found.borderline ? 'borderline' : 'not seen'}>{found.borderline ? '◐' : '□'}</span>
                    {:else}
                      <span class:bad={found.misses > 0} class:good={found.misses === 0}>{found.misses}/{found.exposures}</span>
                    {/if}
                  </td>
                {/each}
                <td class="num py-2 pl-2 text-right font-semibold">{fault.misses}/{fault.exposures}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
      <p class="soft mt-1 text-xs">· not asked that day &nbsp; □ not seen &nbsp; ◐ borderline only</p>
    {/if}

    {#if data.corrections.length}
      <h2 class="mt-8">Corrections</h2>
      <ul class="mt-3 grid gap-6 sm:grid-cols-2">
        {#each data.corrections as correction (correction.id)}
          <li>
            <CorrectionPicture {correction} />
            <p class="mt-2 text-lg">“{correction.cue}”</p>
            <p class="soft text-sm">{correction.ask}. {correction.why}.</p>
            <p class="soft text-sm">{correction.technique_name}, {longDay(correction.filmed_on)}, frame <span class="num">{correction.frame}</span></p>
          </li>
        {/each}
      </ul>
    {/if}

    {#key params.student}<Adaptations student={params.student} />{/key}
    {#key data.student.id}<About student={data.student} />{/key}

    {#if data.cautions.length}
      <section class="notice bad mt-8" aria-label="Cautions">
        <h2>With care</h2>
        <ul class="mt-1 list-disc pl-5 text-sm">{#each data.cautions as caution (caution)}<li>{caution}</li>{/each}</ul>
        <p class="soft mt-2 text-sm">Lacertus measures pictures. It is no medical or safety device.</p>
      </section>
    {/if}
  {:else if page.isPending}<p class="soft">Opening…</p>{/if}
</div>

<style>
  .bad {
    color: var(--alarm);
    font-weight: 600;
  }
  .notice.bad {
    color: inherit;
    font-weight: inherit;
  }
  .good {
    color: var(--met);
  }
</style>
