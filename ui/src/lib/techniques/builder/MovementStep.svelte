<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus'
  import Trash2 from '@lucide/svelte/icons/trash-2'
  import MovingFigure from '../../figure/MovingFigure.svelte'
  import type { Figure } from '../../figure/motion'
  import { spoken } from '../../parts/words'
  import Field from './Field.svelte'
  import { named } from './file'
  import type { Building } from './building.svelte'

  let { build, figure }: { build: Building; figure: Figure | undefined } = $props()
  let seconds = $state(0)
  let called = $state('')
  let seen = $state('')
  let phase = $state('')
  let body = $state<'performer' | 'partner'>('performer')
  let newPhase = $state('')

  const times = $derived(build.timesOn(figure))
  const own = $derived(figure && { ...figure, events_s: times })
  const inPhase = $derived(build.phases.includes(phase) ? phase : (build.phases.at(-1) ?? ''))
  const partner = $derived(figure ? figure.bodies.length > 1 : true)
  let moving = $state<ReturnType<typeof MovingFigure>>()

  function like(model: string): void {
    build.set([['moves_like'], model ? { technique: model } : undefined])
  }
  function add(event: SubmitEvent): void {
    event.preventDefault()
    if (!called.trim() || !seen.trim()) return
    build.addEvent(called, seen, { phase: inPhase, body }, figure ? seconds : null, figure)
    called = seen = ''
  }
  function addPhase(event: SubmitEvent): void {
    event.preventDefault()
    const name = named(newPhase, '_')
    if (name && !build.phases.includes(name)) build.set([['phases'], [...build.phases, name]])
    newPhase = ''
  }
  function callPhase(from: string, to: string): void {
    const name = named(to, '_')
    if (name && !build.phases.includes(name)) build.take(build.file.withPhaseCalled(from, name))
  }
  function call(event: string, to: string): void {
    const name = named(to, '_')
    if (name && !build.events.includes(name)) build.take(build.file.withEventCalled(event, name))
  }
  const used = (one: string) =>
    build.events.some((event) => build.file.words(['events', event, 'phase']) === one) ||
    build.file.list(['checkpoints']).some((checkpoint) => (checkpoint as { phase?: unknown }).phase === one)
</script>

<div class="two">
  <section>
    <label class="text-sm font-semibold"
      >It moves like
      <select class="field mt-1 block" value={build.model} onchange={(event) => like(event.currentTarget.value)}>
        <option value="">none of these</option>
        {#each build.techniques.filter((one) => build.parts.moving.includes(one.id)) as one (one.id)}
          <option value={one.id}>{one.name}</option>
        {/each}
      </select>
    </label>
    <p class="soft mt-1 text-sm">
      A figure that moves shows when things happen and where the body is. It need not be the same technique, only alike.
    </p>

    <h2 class="mt-5">Phases</h2>
    <ul class="mt-1">
      {#each build.phases as one, i (i)}
        <li class="flex items-center gap-2 py-1">
          <span class="num soft w-5">{i + 1}</span>
          <input
            class="field"
            aria-label="Phase {i + 1}"
            value={spoken(one)}
            onchange={(event) => callPhase(one, event.currentTarget.value)}
          />
          <button
            class="icon"
            aria-label="Delete phase {spoken(one)}"
            title={used(one) ? 'Events or checkpoints lie in it.' : ''}
            disabled={used(one) || build.phases.length === 1}
            onclick={() => build.set([['phases'], build.phases.filter((other) => other !== one)])}
            ><Trash2 size={16} aria-hidden="true" /></button
          >
        </li>
      {/each}
    </ul>
    <form class="flex gap-2" onsubmit={addPhase}>
      <span class="w-5"></span>
      <input class="field" aria-label="Another phase" placeholder="another phase" bind:value={newPhase} />
      <button class="button" disabled={!newPhase.trim()}>Add</button>
    </form>

    <h2 class="mt-5">Instants that matter</h2>
    {#if build.events.length === 0}<p class="soft text-sm">
        None yet. Stop the figure where something happens, say what, and add it.
      </p>{/if}
    <ul class="mt-1" data-testid="instants">
      {#each build.inOrder(figure) as event (event)}
        {@const readers = build.readersOf(event)}
        <li class="rule-b py-2">
          <div class="flex flex-wrap items-center gap-2">
            <input
              class="field"
              aria-label="Name of {spoken(event)}"
              value={spoken(event)}
              onchange={(change) => call(event, change.currentTarget.value)}
            />
            <select
              class="field"
              aria-label="Phase of {spoken(event)}"
              value={build.file.words(['events', event, 'phase'])}
              onchange={(change) => build.set([['events', event, 'phase'], change.currentTarget.value])}
            >
              {#each build.phases as one (one)}<option value={one}>{spoken(one)}</option>{/each}
            </select>
            {#if figure}
              {@const at = times[event]}
              <button
                class="num text-sm underline"
                disabled={at === undefined}
                onclick={() => at !== undefined && moving?.goTo(at)}
                >{at === undefined ? 'not on the figure' : `${at.toFixed(2)} s`}</button
              >
              <button class="text-sm underline" onclick={() => build.moveEvent(event, seconds)}
                >set to {seconds.toFixed(2)} s</button
              >
            {/if}
            <button
              class="icon ml-auto"
              aria-label="Delete {spoken(event)}"
              title={readers.length ? `It is read by “${readers[0]}”.` : ''}
              disabled={readers.length > 0}
              onclick={() => build.deleteEvent(event)}><Trash2 size={16} aria-hidden="true" /></button
            >
          </div>
          <Field
            {build}
            label="How everybody marks the same frame"
            path={['events', event, 'mark']}
            placeholder="First frame in which …"
          />
        </li>
      {/each}
    </ul>
  </section>
  <section aria-label="The figure">
    {#if own}
      {#key figure}
        <MovingFigure
          bind:this={moving}
          panes={[{ figure: own, title: '' }]}
          label="The movement"
          moved={(now) => (seconds = now)}
        />
      {/key}
    {:else if build.model}<p class="soft text-sm">The figure is getting ready…</p>
    {:else}<p class="soft text-sm">
        Choose what it moves like, and the figure is shown here. Without one, add the instants by name.
      </p>{/if}
    <form class="mt-3 border p-3" style="border-color: var(--rule)" onsubmit={add}>
      <label class="text-sm font-semibold"
        >{figure ? `What happens at ${seconds.toFixed(2)} s? Call it` : 'What happens? Call it'}
        <input class="field mt-1 w-full" placeholder="full reach" bind:value={called} data-testid="happens" /></label
      >
      <label class="mt-2 block text-sm font-semibold"
        >It is the first frame in which
        <input
          class="field mt-1 w-full"
          placeholder="the working knee no longer straightens"
          bind:value={seen}
        /></label
      >
      <div class="mt-2 flex flex-wrap items-end gap-3">
        <label class="text-sm"
          >Phase
          <select class="field block" value={inPhase} onchange={(event) => (phase = event.currentTarget.value)}>
            {#each build.phases as one (one)}<option value={one}>{spoken(one)}</option>{/each}
          </select></label
        >
        {#if partner}
          <label class="text-sm"
            >Whose
            <select class="field block" bind:value={body}>
              <option value="performer">performer</option>
              <option value="partner">partner</option>
            </select></label
          >
        {/if}
        <button class="button main" disabled={!called.trim() || !seen.trim()}
          ><Plus size={16} aria-hidden="true" /> Add this instant</button
        >
      </div>
    </form>
  </section>
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 2rem;
  }
  .icon {
    display: inline-grid;
    place-items: center;
    width: 2rem;
    height: 2rem;
  }
  .icon:disabled {
    opacity: 0.35;
  }
  @media (max-width: 900px) {
    .two {
      grid-template-columns: 1fr;
    }
  }
</style>
