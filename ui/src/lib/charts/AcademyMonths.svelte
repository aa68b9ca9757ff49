<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import { between, share } from '../progress/ledger'
  import { spoken } from '../parts/words'
  import OverTime from './OverTime.svelte'
  import { noon, ticksTo } from './shapes'

  /** The academy's common faults over the last twelve months, and the coach's own time a rep. */
  const found = createQuery(() => ({
    queryKey: ['academy', 'months'],
    queryFn: () => unwrap(client.GET('/api/academy/months')),
  }))
  const month = (on: Date) => on.toLocaleDateString('en', { month: 'short', year: 'numeric' })
  const faults = $derived(
    (found.data?.faults ?? []).map((fault) => ({
      name: `${spoken(fault.fault)} (${fault.technique_name})`,
      points: fault.points.map((point) => ({
        on: noon(point.month),
        value: point.rate,
        low: point.interval[0] ?? 0,
        high: point.interval[1] ?? 1,
        words: `${share(point.rate)} (${between(point.interval)}), ${point.misses} of ${point.exposures} reps`,
      })),
    })),
  )
  const minutes = (value: number) => value.toFixed(value < 10 ? 1 : 0)
  const pace = $derived([
    {
      name: 'Minutes a rep',
      points: (found.data?.pace ?? []).map((point) => ({
        on: noon(point.month),
        value: point.minutes,
        low: point.low,
        high: point.high,
        words: `${minutes(point.minutes)} min a rep, ${point.reviews} ${point.reviews === 1 ? 'review' : 'reviews'}`,
      })),
    },
  ])
  const longest = $derived(Math.max(0.5, ...(found.data?.pace.map((point) => point.high) ?? [])))
</script>

<h2 class="mt-8">Over the months</h2>
{#if found.error}<p class="notice bad mt-1" role="alert">{found.error.message}</p>{/if}
{#if found.data && !faults.length}<p class="soft mt-1 text-sm">
    Once reviews are finished in which a fault was asked ten times, its months are drawn here.
  </p>{/if}
<OverTime
  series={faults}
  label="How often the most common faults were missed, by month"
  caption="The faults that were missed most in twelve months: the share of reps in which each was missed, with 95 % intervals."
  ticks={[0, 0.25, 0.5, 0.75, 1]}
  format={(value) => share(value)}
  dayWords={month}
  gapDays={32}
  testid="months"
/>
{#if pace[0]?.points.length}
  <h3 class="mt-5 font-semibold">Your time a rep</h3>
  <OverTime
    series={pace}
    label="Your minutes a rep, by month"
    caption="Minutes a rep in your own finished reviews, by the month of the clip: the median, and the middle half of them."
    ticks={ticksTo(longest)}
    format={(value) => `${value} min`}
    dayWords={month}
    gapDays={32}
    testid="pace"
  />
{/if}
