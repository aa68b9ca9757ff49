<script lang="ts">
  import type { Schemas } from '../../api/client'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const events = $derived(bench.technique?.events ?? [])
  const first = $derived(bench.review.reps.find((rep) => rep.id === bench.rep?.blind_of))
  // Which events were marked the first time is no secret, only where.
  const asked = $derived(events.filter((event) => first && (first.events[event.key]?.length ?? 0) > 0))
  const marked = $derived(asked.filter((event) => bench.rep && event.key in bench.rep.events))
  const placed = $derived(bench.points.needs.filter((need) => need.point))
  const frames = $derived([...new Set(bench.points.needs.map((need) => need.spot?.frame ?? -1))].sort((a, b) => a - b))
  const rows = (scatter: Schemas['ScatterOut']) => [
    { what: 'points', value: scatter.px, unit: 'px', pairs: scatter.point_pairs },
    { what: 'events', value: scatter.frames, unit: 'frames', pairs: scatter.event_pairs },
    { what: 'angles', value: scatter.deg, unit: '°', pairs: scatter.degree_pairs },
  ]
  function next(): void {
    const need = bench.points.needs.find((one) => !one.point && one.spot)
    if (!need?.spot) return
    if (bench.tool !== 'points') bench.take('points')
    bench.player.go(need.spot.frame)
  }
</script>

<section class="min-h-0 flex-1 overflow-auto px-4 py-3" aria-label="Marking again, blind" data-testid="blind">
  <h2>Rep {bench.rep ? bench.numberOf(bench.rep) : ''} again, blind</h2>
  <p class="soft mt-1 text-sm">
    Mark the same instants and points again without seeing the first marking. The distance between the two is your own
    scatter; it replaces the default in all your open reviews.
  </p>
  <h3 class="mt-4 font-semibold">Events <span class="num soft">{marked.length} of {asked.length}</span></h3>
  <ul class="text-sm">
    {#each asked as event (event.key)}
      <li class="rule-b flex gap-3 py-1">
        <span class="num soft w-5">{events.indexOf(event) + 1}</span>
        <span class="w-32 font-semibold">{spoken(event.key)}</span>
        <span class="soft flex-1 leading-tight">{event.mark}</span>
        <span class="num">{bench.rep?.events[event.key]?.[0] ?? '–'}</span>
      </li>
    {/each}
  </ul>
  <h3 class="mt-4 font-semibold">
    Points <span class="num soft">{placed.length} of {bench.points.needs.length}</span>
  </h3>
  {#if bench.points.needs.length === 0}<p class="soft text-sm">No point was placed by hand the first time.</p>{/if}
  {#each frames as frame (frame)}
    <div class="mt-1 flex flex-wrap items-center gap-1 text-sm">
      <button class="num w-20 text-left underline" onclick={() => bench.player.go(frame)}>frame {frame}</button>
      {#each bench.points.needs.filter((need) => need.spot?.frame === frame) as need (need.body + need.landmark)}
        <span
          class="chip"
          class:placed={need.point}
          class:asked={bench.points.asked?.landmark === need.landmark &&
            bench.points.asked.body === need.body &&
            bench.points.asked.frame === frame}
          >{need.body === 'partner' ? 'partner’s ' : ''}{spoken(need.landmark)}</span
        >
      {/each}
    </div>
  {/each}
  <div class="mt-4 flex flex-wrap gap-3">
    <button class="button" disabled={placed.length === bench.points.needs.length} onclick={next}
      >Place the next point</button
    >
    <button
      class="button main"
      disabled={marked.length + placed.length === 0 || bench.saver.waiting.length > 0}
      onclick={() => void bench.blind.compare()}>Compare the two markings</button
    >
    <button class="underline" onclick={() => (bench.cutting.delete(), bench.choose(first?.id ?? null))}>Cancel</button>
  </div>
  {#if bench.blind.scatter}
    <table class="mt-4 w-full text-sm" data-testid="scatter">
      <caption class="text-left font-semibold">Your marking varies by</caption>
      <thead
        ><tr class="soft text-left text-xs"><th></th><th>in this rep</th><th>in all you marked twice</th></tr></thead
      >
      <tbody>
        {#each rows(bench.blind.scatter.here) as row, i (row.what)}
          {@const all = rows(bench.blind.scatter.all)[i]}
          <tr class="rule-b">
            <td class="py-1">{row.what}</td>
            {#each [row, all] as one, k (k)}<td class="num"
                >{one?.value == null ? '–' : `${one.value.toFixed(1)} ${one.unit}`}
                <span class="soft">from {one?.pairs ?? 0}</span></td
              >{/each}
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="soft mt-1 text-xs">Used once 10 pairs are there. Reviews that are finished stay as they were.</p>
  {/if}
</section>
