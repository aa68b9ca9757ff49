<script lang="ts">
  import { client, unwrap, type Schemas } from '../api/client'
  import { day, longDay, shown, spoken } from '../parts/words'
  import FaultDetail from './FaultDetail.svelte'
  import { between, cellWords, STATES, share, stateOf, trendOf } from './ledger'

  type Row = Schemas['FaultHistoryOut'] & Partial<Schemas['FaultOut']>
  interface Props {
    student: string
    faults: readonly Row[]
    dates: readonly string[]
    filters: { technique?: string; side?: 'left' | 'right'; pace?: 'slow' | 'full'; rung?: string }
    /** What the signs mean stands under the table. @default true */
    legend?: boolean
  }
  let { student, faults, dates, filters, legend = true }: Props = $props()
  // On a phone the latest few fit beside the names.
  const MOST = window.matchMedia('(max-width: 40rem)').matches ? 3 : 10
  let all = $state(false)
  let open = $state<string | null>(null)
  let failure = $state('')
  let behind = $state<{ key: string; on: string; reps: Schemas['RepBehindOut'][] | null } | null>(null)
  // A long history shows its latest sessions first; the rest is one press away.
  const columns = $derived(all ? dates : dates.slice(-MOST))
  const keyOf = (row: Row) => `${row.technique}/${row.fault}/${row.family}`

  async function look(row: Row, on: string): Promise<void> {
    const key = keyOf(row)
    if (behind?.key === key && behind.on === on) return void (behind = null)
    behind = { key, on, reps: null }
    const { technique: _, ...query } = filters
    failure = ''
    try {
      const found = await unwrap(
        client.GET('/api/students/{student_id}/reps', {
          params: { path: { student_id: student }, query: { ...query, on, of: row.technique, fault: row.fault } },
        }),
      )
      if (behind?.key === key && behind.on === on) behind = { key, on, reps: found }
    } catch (error) {
      behind = null
      failure = error instanceof Error ? error.message : String(error)
    }
  }
  /** What stands in a cell: how many of how many, or a sign where nothing was judged firmly. */
  function cellText(found: { exposures: number; misses: number; borderline: number }): string {
    if (found.exposures > 0) return `${found.misses}/${found.exposures}`
    return found.borderline ? '◐' : '□'
  }
</script>

{#if failure}<p class="notice bad mt-2 text-sm" role="alert">{failure}</p>{/if}
<div class="mt-2 overflow-x-auto">
  <table class="w-full text-sm" style="border-top: 2px solid var(--ink)">
    <thead>
      <tr class="rule-b text-left">
        <th class="py-2 pr-3 font-semibold"
          >{#if dates.length > MOST}<button class="underline" onclick={() => (all = !all)}
              >{all ? 'latest sessions' : `${dates.length - MOST} earlier sessions`}</button
            >{:else}Fault{/if}</th
        >
        <th class="px-2 font-semibold">state</th>
        {#each columns as on (on)}<th class="num px-2 text-center font-normal whitespace-nowrap" title={longDay(on)}
            >{day(on)}</th
          >{/each}
        <th class="num px-2 text-right font-semibold">miss rate</th>
        <th class="px-2 font-semibold">recheck</th>
      </tr>
    </thead>
    <tbody>
      {#each faults as row (keyOf(row))}
        {@const key = keyOf(row)}
        {@const trend = trendOf(row.lately)}
        <tr class="rule-b" data-fault={row.fault || row.family} data-state={row.state}>
          <td class="min-w-32 py-1.5 pr-3">
            <button class="text-left" aria-expanded={open === key} onclick={() => (open = open === key ? null : key)}>
              <span class="font-semibold">{spoken(row.fault || row.family)}</span>
              {#if row.safety}<span class="ml-1 text-xs font-semibold" style="color: var(--alarm)">safety</span>{/if}
              <br /><span class="soft"
                >{row.technique_name ? `${row.technique_name} · ${row.family}` : 'over all techniques'}</span
              >
            </button>
          </td>
          <td class="px-2 whitespace-nowrap"
            ><span class="state {stateOf(row).kind}" title={stateOf(row).says}
              >{stateOf(row).glyph} {stateOf(row).word}</span
            >{#if stateOf(row).beside}<br /><span class="soft text-xs">{stateOf(row).beside}</span
              >{/if}{#if row.under_load}<br /><span class="soft text-xs">under load</span>{/if}</td
          >
          {#each columns as on (on)}
            {@const found = row.days.find((entry) => entry.on === on)}
            <td class="num px-1 text-center" data-date={on}>
              {#if !found}<span class="soft">·</span>
              {:else}
                <button
                  class="cell"
                  class:bad={found.misses > 0}
                  class:good={found.exposures > 0 && found.misses === 0}
                  class:turned={found.changed}
                  disabled={!row.technique}
                  title="{longDay(on)}: {cellWords(found)}"
                  aria-label="{cellText(found)}: {spoken(row.fault || row.family)}, {longDay(on)}, {cellWords(found)}"
                  onclick={() => void look(row, on)}
                >
                  {cellText(found)}{#if found.changed}<span class="mark" aria-hidden="true"
                      >{STATES[found.state].glyph}</span
                    >{/if}
                </button>
              {/if}
            </td>
          {/each}
          <td class="num px-2 text-right whitespace-nowrap"
            ><b>{row.misses}/{row.exposures}</b><br /><span class="soft" title="Miss rate with its 95 % interval"
              >{share(row.rate)} ({between(row.interval)})</span
            ></td
          >
          <td class="px-2"
            ><span class="whitespace-nowrap">{row.recheck ? day(row.recheck) : '–'}</span>{#if trend}<br /><span
                class="soft inline-block w-44 text-xs"
                title="Miss rate of the earlier and the later half of the sessions, the later one with its 95 % interval"
                >{trend}</span
              >{/if}</td
          >
        </tr>
        {#if behind?.key === key}
          <tr class="rule-b"
            ><td colspan={columns.length + 4} class="py-2 pl-6">
              {#if behind.reps === null}<span class="soft">Looking…</span>
              {:else}
                <ul class="flex flex-wrap gap-x-6 gap-y-1" aria-label="The reps of {longDay(behind.on)}">
                  {#each behind.reps as rep (rep.rep + rep.checkpoint)}
                    <li>
                      <a class="underline" href="#/bench/{rep.clip}/{rep.rep}/{rep.checkpoint}"
                        >{rep.clip_name}, frame <span class="num">{rep.first_frame}</span></a
                      >
                      <b
                        style="color: {rep.verdict === 'missed'
                          ? 'var(--alarm)'
                          : rep.verdict === 'met'
                            ? 'var(--met)'
                            : 'var(--ink)'}">{spoken(rep.verdict)}</b
                      >{rep.value != null ? ` ${shown(rep.value, rep.unit)}` : ''}
                      <span class="soft">{rep.side}{rep.rung ? `, ${spoken(rep.rung)}` : ''}</span>
                      <a class="underline" href="#/compare/rep.{rep.rep}?checkpoint={rep.checkpoint}">Compare</a>
                    </li>
                  {:else}<li class="soft">Nothing is known of these reps any more.</li>{/each}
                </ul>
              {/if}
            </td></tr
          >
        {/if}
        {#if open === key}
          <tr class="rule-b"
            ><td colspan={columns.length + 4} class="py-2 pl-6" data-testid="apart">
              <FaultDetail {student} {row} {filters} />
            </td></tr
          >
        {/if}
      {/each}
    </tbody>
  </table>
</div>
{#if legend}<p class="soft mt-1 text-xs">
    Missed of judged reps; · not asked that day, □ not seen, ◐ borderline only (it counts for a safety point alone).
    Press a cell for its reps, a fault for its sides, pace, rungs, and pictures of before and after. A framed cell
    changed the state: {#each Object.values(STATES) as state (state.word)}<span class="mr-2 whitespace-nowrap"
        >{state.glyph} {state.word}</span
      >{/each}
  </p>{/if}

<style>
  .cell {
    position: relative;
    min-width: 2.6rem;
    padding: 0.2rem 0.3rem;
  }
  .cell:not(:disabled):hover {
    text-decoration: underline;
  }
  .cell:disabled {
    opacity: 1;
  }
  .cell.bad {
    color: var(--alarm);
    font-weight: 650;
  }
  .cell.good {
    color: var(--met);
  }
  .cell.turned {
    outline: 1px solid var(--ink);
  }
  .mark {
    position: absolute;
    right: -2px;
    top: -0.55rem;
    background: var(--page);
    color: var(--ink);
    font-size: 0.7rem;
    line-height: 1;
    padding: 0 1px;
  }
  .state {
    font-weight: 600;
  }
  .state.relapsed,
  .state.recurring {
    color: var(--alarm);
  }
  .state.cleared,
  .state.clean {
    color: var(--met);
  }
</style>
