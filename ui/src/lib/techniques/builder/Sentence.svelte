<script lang="ts">
  import { sentence, spoken } from '../../parts/words'
  import type { Building } from './building.svelte'
  import { absolute, partsOf, rulerOf, type Form } from './forms'

  interface Props {
    build: Building
    form: Form
    /** The place that a click on the figure fills. */
    active: string
    points: readonly string[]
  }
  /** A checkpoint as a sentence: points and events are picked in it. */
  let { build, form, active = $bindable(), points }: Props = $props()
  const pathOf = (place: Form['places'][number]) => [...build.path, 'measure', ...place.path]
  const named = (point: string) => spoken(point.replace('partner.', 'partner’s '))
  const ORDINALS = ['first', 'then', 'third', 'fourth', 'fifth', 'sixth', 'seventh']
  /** What is usual is not written. Another unit has another range. */
  function choose(place: Form['places'][number], value: string): void {
    const written = value === String(place.usual) ? undefined : value
    const measure = { ...(build.file.at([...build.path, 'measure']) as object), [place.key]: written }
    const ruler = place.key === 'unit' ? rulerOf(form, measure) : null
    build.set([pathOf(place), written], ...(ruler ? ([[[...build.path, 'within'], ruler.usual]] as const) : []))
  }
  const problems = $derived(build.at(...build.path, 'measure'))
  const all = (value: string) => (points.includes(value) ? points : [value, ...points])
</script>

{#snippet events(value: string)}
  {#if !build.events.includes(value)}<option {value}>choose an instant</option>{/if}
  {#each build.events as event (event)}<option value={event}>{spoken(event)}</option>{/each}
{/snippet}
<p class="sentence" data-testid="sentence">
  {#each partsOf(form) as part, i (i)}
    {#if typeof part === 'string'}{part}
    {:else}
      {@const value = build.file.words(pathOf(part))}
      {#if part.of === 'events'}
        {@const chain = build.file.list(pathOf(part)).map(String)}
        {#each chain as one, at (at)}
          {#if at > 0}, then
          {/if}
          <select
            class="field"
            aria-label={ORDINALS[at] ?? `number ${at + 1}`}
            value={one}
            onchange={(event) => build.set([[...pathOf(part), at], event.currentTarget.value])}
          >
            {@render events(one)}
          </select>
        {/each}
        {#if chain.length > 2}<button
            class="min-h-7 text-sm underline"
            onclick={() => build.set([pathOf(part), chain.slice(0, -1)])}>one less</button
          >{/if}
        <button
          class="min-h-7 text-sm underline"
          onclick={() => build.set([pathOf(part), [...chain, build.events.at(-1) ?? '']])}>and then…</button
        >
      {:else if part.of === 'choice'}
        <select
          class="field"
          aria-label={spoken(part.key)}
          value={value || String(part.usual)}
          onchange={(event) => choose(part, event.currentTarget.value)}
        >
          {#each part.choices as [one, words] (one)}<option value={one}>{words}</option>{/each}
        </select>
      {:else}
        <select
          class="field"
          class:active={part.of === 'point' && active === part.key}
          class:partner={part.of === 'point' && absolute(value).body === 'partner'}
          aria-label={spoken(part.key)}
          {value}
          onfocus={() => part.of === 'point' && (active = part.key)}
          onchange={(event) => build.set([pathOf(part), event.currentTarget.value])}
        >
          {#if part.of === 'point'}
            {#each all(value) as point (point)}<option value={point}>{named(point)}</option>{/each}
          {:else}{@render events(value)}{/if}
        </select>
      {/if}
    {/if}
  {/each}
</p>
{#each problems as problem, i (i)}<p class="bad text-sm">{sentence(problem.message)}</p>{/each}

<style>
  .sentence {
    line-height: 2.5;
  }
  .sentence select {
    max-width: 14rem;
    font-weight: 600;
  }
  .active {
    outline: 2px solid var(--performer);
  }
  .bad {
    color: var(--alarm);
  }
</style>
