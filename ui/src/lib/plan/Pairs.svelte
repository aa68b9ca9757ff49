<script lang="ts">
  import type { Schemas } from '../api/client'

  /** Who trains with whom; a pair is changed by choosing another partner. */
  interface Props {
    data: Schemas['ClassOut']
    may: boolean
    make: () => void
    changed: (pairs: Schemas['PlannedPairs']) => void
  }
  let { data, may, make, changed }: Props = $props()
  const names = $derived(new Map(data.coming.map((one) => [one.id, one.name])))
  const pairs = $derived(data.pairs)
  const waves = $derived(Math.ceil((pairs?.pairs?.length ?? 0) / data.mats))

  /** Two students change places, wherever they stand. */
  function swap(one: string, other: string): void {
    if (!pairs || one === other) return
    const to = (id: string) => (id === one ? other : id === other ? one : id)
    changed({
      ...pairs,
      pairs: (pairs.pairs ?? []).map((pair) => ({
        ...pair,
        students: pair.students.map(to),
        third: pair.third ? to(pair.third) : null,
      })),
      alone: (pairs.alone ?? []).map((alone) => ({ ...alone, student: to(alone.student) })),
    })
  }
  const everybody = $derived(
    (pairs?.pairs ?? [])
      .flatMap((pair) => [...pair.students, ...(pair.third ? [pair.third] : [])])
      .concat((pairs?.alone ?? []).map((one) => one.student)),
  )
</script>

{#snippet person(id: string)}
  {#if may}<select
      class="field w-full min-w-0 flex-1 text-sm"
      aria-label="Change places with"
      value={id}
      onchange={(event) => swap(id, event.currentTarget.value)}
    >
      {#each everybody as one (one)}<option value={one}>{names.get(one) ?? ''}</option>{/each}
    </select>{:else}{names.get(id) ?? ''}{/if}
{/snippet}

<section class="mt-6" aria-label="Pairs">
  <div class="flex items-baseline gap-3">
    <h2>Pairs</h2>
    {#if may && data.coming.length > 1}<button class="button text-sm print:hidden" onclick={make}
        >{pairs ? 'Pair again' : 'Make pairs'}</button
      >{/if}
  </div>
  {#if pairs}
    {#if waves > 1}<p class="soft text-sm">{data.mats} pairs at once: {waves} turns.</p>{/if}
    <ul class="mt-1 text-sm" data-testid="pairs">
      {#each pairs.pairs ?? [] as pair (pair.students[0])}
        <li class="rule-b flex items-center gap-x-2 py-1">
          {@render person(pair.students[0] ?? '')} and {@render person(pair.students[1] ?? '')}
          {#if pair.third}, {@render person(pair.third)}{/if}
        </li>
      {/each}
      {#each pairs.alone ?? [] as one (one.student)}
        <li class="rule-b py-1"><b>{names.get(one.student)}</b> <span class="soft">{one.why}</span></li>
      {/each}
    </ul>
    <p class="soft mt-1 text-xs">
      Nobody is thrown before they have passed a fall that fits. Adults and children, and weights more than 15 % apart,
      are not paired.
    </p>
  {:else}<p class="soft text-sm">
      Pairs are made from falls passed, weights, and who can show what the other lacks.
    </p>{/if}
</section>
