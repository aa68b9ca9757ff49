<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import { sentence, shown, spoken } from '../parts/words'
  import { between, share } from './ledger'

  /** What partners did, how it was answered and what came of it; how often reps came through, by option, start and choice. */
  interface Props {
    student: string
    filters: { technique?: string; side?: 'left' | 'right'; pace?: 'slow' | 'full'; rung?: string }
  }
  let { student, filters }: Props = $props()
  const page = createQuery(() => ({
    queryKey: ['student', student, 'answers', filters],
    queryFn: () =>
      unwrap(
        client.GET('/api/students/{student_id}/answers', { params: { path: { student_id: student }, query: filters } }),
      ),
  }))
  type Share = Pick<Schemas['ShareOut'], 'count' | 'of' | 'rate'> & { interval: readonly number[] }
  const of = (one: Share | null) => (one ? `${one.count} of ${one.of}` : '–')
  const rate = (one: Share | null) => (one ? `${share(one.rate)} (${between(one.interval)})` : '')
</script>

{#if page.error}<p class="soft mt-8" role="alert">{page.error.message}</p>{/if}
{#if page.data?.reactions.length}
  <h2 class="mt-8">Reactions and answers</h2>
  <p class="soft text-sm">
    What the partner did, what came back, how fast, and whether the rep came through. Ranges in brackets are 95 %
    intervals.
  </p>
  <div class="mt-2 overflow-x-auto">
    <table class="w-full text-sm" style="border-top: 2px solid var(--ink)" data-testid="answers">
      <thead>
        <tr class="rule-b text-left">
          <th class="py-2 pr-3 font-semibold">Reaction</th>
          <th class="px-2 font-semibold">answer</th>
          <th class="px-2 text-right font-semibold">times</th>
          <th class="px-2 text-right font-semibold">latency</th>
          <th class="px-2 text-right font-semibold">came through</th>
        </tr>
      </thead>
      <tbody>
        {#each page.data.reactions as one (one.technique + one.reaction)}
          {#each one.answers as row, i (row.answer ?? '')}
            <tr class:rule-b={i === one.answers.length - 1} data-reaction={one.reaction}>
              {#if i === 0}<td class="py-1.5 pr-3 align-top" rowspan={one.answers.length}
                  ><b class="font-semibold">{one.says}</b><br /><span class="soft"
                    >{one.technique_name}{#if one.held}
                      · answered in time in <span class="num">{of(one.held)}</span>, {rate(one.held)}{/if}</span
                  ></td
                >{/if}
              <td class="px-2 py-1.5"
                >{row.name}{#if row.answer && !row.counts}<span class="ml-1 text-xs" style="color: var(--alarm)"
                    >wrong</span
                  >{/if}</td
              >
              <td class="num px-2 text-right whitespace-nowrap"
                >{of(row.times)}<br /><span class="soft">{rate(row.times)}</span></td
              >
              <td class="num px-2 text-right whitespace-nowrap"
                >{#if row.latency}{shown(row.latency.median_ms, 'ms')}<br /><span class="soft"
                    >({row.latency.interval_ms.map((ms) => ms.toFixed(0)).join('\u2060–\u2060')} ms)</span
                  >{:else}–{/if}</td
              >
              <td class="num px-2 text-right whitespace-nowrap"
                >{of(row.completed)}<br /><span class="soft">{rate(row.completed)}</span></td
              >
            </tr>
          {/each}
        {/each}
      </tbody>
    </table>
  </div>
{/if}
{#if page.data?.success.length}
  <h2 class="mt-8">How often it came through</h2>
  <dl class="mt-1 flex flex-wrap gap-x-10 gap-y-2 text-sm" data-testid="success">
    {#each page.data.success as one (one.technique + one.group)}
      <div>
        <dt class="soft">{one.technique_name}, by {spoken(one.group)}</dt>
        {#each one.choices as choice (choice.name)}<dd class="num">
            {sentence(choice.name).replace(/\.$/, '')} <b>{of(choice.completed)}</b>
            <span class="soft">{rate(choice.completed)}</span>
          </dd>{/each}
      </div>
    {/each}
  </dl>
{/if}
