<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import { spoken } from '../parts/words'
  import BeforeAfter from './BeforeAfter.svelte'
  import Whiskers from '../charts/Whiskers.svelte'
  import FaultChart from '../charts/FaultChart.svelte'
  import { between, share } from './ledger'

  /** A fault of the ledger in detail: sides, pace, rungs, success, the cue before it cleared, before and after. */
  interface Props {
    student: string
    row: Schemas['FaultHistoryOut'] & Partial<Schemas['FaultOut']>
    filters: { technique?: string; side?: 'left' | 'right'; pace?: 'slow' | 'full'; rung?: string }
  }
  let { student, row, filters }: Props = $props()
  const which = $derived(row.technique ? { of: row.technique, fault: row.fault } : { fault: row.family })
  const detail = createQuery(() => ({
    queryKey: ['student', student, 'fault', which, filters],
    queryFn: () =>
      unwrap(
        client.GET('/api/students/{student_id}/fault', {
          params: { path: { student_id: student }, query: { ...filters, ...which } },
        }),
      ),
  }))
  /** Sides and paces below one another on one scale. */
  const compared = $derived(
    [['side', detail.data?.sides ?? []] as const, ['pace', detail.data?.paces ?? []] as const]
      .map(([what, parts]) =>
        parts.filter((part) => part.name && part.exposures > 0).map((part) => ({ ...part, what })),
      )
      .filter((parts) => parts.length > 1)
      .flat()
      .map((part) => ({
        name: `${spoken(part.name)} ${part.what}`,
        value: part.rate,
        low: part.interval[0] ?? 0,
        high: part.interval[1] ?? 1,
        words: `${part.misses} of ${part.exposures}, ${share(part.rate)} (${between(part.interval)})`,
      })),
  )
</script>

{#if row.ask}<p>{row.ask}.</p>{/if}
{#if detail.error}<p class="soft" role="alert">{detail.error.message}</p>{/if}
{#if detail.data}
  {@const { sides, paces, rungs, options, success, cleared_by } = detail.data}
  <dl class="mt-1 flex flex-wrap gap-x-8 gap-y-1">
    {#each [['sides', sides], ['pace', paces], ['rung', rungs], ...Object.entries(options)] as const as [name, parts] (name)}
      {#if parts.length > 1 || name === 'sides'}
        <div>
          <dt class="soft text-xs">{spoken(name)}</dt>
          {#each parts as part (part.name)}<dd class="num">
              {part.name ? spoken(part.name) : 'not recorded'} <b>{part.misses}/{part.exposures}</b>
              {share(part.rate)} <span class="soft">({between(part.interval)})</span>
            </dd>{/each}
        </div>
      {/if}
    {/each}
    <div>
      <dt class="soft text-xs">recurrence now</dt>
      <dd class="num">{share(row.recurrence)}</dd>
    </div>
    {#each success as one (one.reaction ?? '')}
      <div>
        <dt class="soft text-xs">completed{one.reaction ? ` when the partner ${spoken(one.reaction)}` : ''}</dt>
        <dd class="num">
          with the fault {one.with_fault[0]}/{one.with_fault[1]}, without {one.without[0]}/{one.without[1]}
        </dd>
      </div>
    {/each}
    {#if cleared_by}<div>
        <dt class="soft text-xs">cleared after the cue</dt>
        <dd>“{cleared_by}”</dd>
      </div>{/if}
  </dl>
  {#if compared.length}
    <div class="mt-3">
      <p class="soft text-xs">Missed by side and pace, with 95 % intervals.</p>
      <Whiskers
        rows={compared}
        label="How often it was missed by side and pace"
        from={0}
        to={1}
        ticks={[0, 0.25, 0.5, 0.75, 1]}
        format={share}
        testid="sides-and-pace"
      />
    </div>
  {/if}
  <FaultChart blocks={detail.data.blocks} marks={detail.data.marks} label={row.ask ?? spoken(row.fault)} />
{:else if detail.isPending}<p class="soft">Looking…</p>{/if}
{#if row.technique}<BeforeAfter {student} technique={row.technique} fault={row.fault} />{/if}
