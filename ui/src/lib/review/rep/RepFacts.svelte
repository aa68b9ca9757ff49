<script lang="ts">
  import { HEADINGS, OUTCOMES, PARTNERS, PURPOSES, STANCES, VIEWS, entries } from '../../parts/labels'
  import Combobox from '../../parts/Combobox.svelte'
  import Segments from '../../parts/Segments.svelte'
  import Tip from '../../parts/Tip.svelte'
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type RepForm } from '../../api/client'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const now = $derived((bench.rep ?? bench.cutting.draft) as RepForm)
  const phases = $derived(bench.technique?.phases ?? [])
  const events = $derived(bench.technique?.events.map((event) => event.key) ?? [])
  const others = $derived(bench.reps.filter((rep) => rep.id !== bench.repId))
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const value = (event: Event) => (event.currentTarget as HTMLSelectElement).value
  const set = (key: keyof RepForm) => (event: Event) => {
    bench.cutting.describe({ [key]: value(event) || null })
    ;(event.currentTarget as HTMLSelectElement).blur()
  }
  const techniques = $derived(bench.library.map((one) => ({ value: one.id, label: one.name, also: one.aliases })))
  const performers = $derived(
    (students.data ?? [{ id: bench.clip.student_id ?? '', name: bench.clip.student ?? '' }]).map((one) => ({
      value: one.id,
      label: one.name,
    })),
  )
  function perform(id: string): void {
    bench.cutting.describe({ student_id: id === bench.clip.student_id ? null : id })
  }
  const partners = $derived([
    { value: 'nobody', label: 'partner not named' },
    ...performers.filter((one) => one.value !== (now.student_id ?? bench.clip.student_id)),
  ])
  function partner(id: string): void {
    bench.cutting.describe({ partner_student_id: id === 'nobody' ? null : id })
  }
  function useTechnique(technique: string): void {
    bench.cutting.describe({ technique, options: {} })
    bench.checkpointId = bench.technique?.checkpoints[0]?.id ?? null
  }
  /** Say one fact of the rep, or take it back. */
  const say = (key: keyof RepForm) => (event: Event & { currentTarget: HTMLSelectElement | HTMLInputElement }) => {
    bench.cutting.describe({ [key]: event.currentTarget.value.trim() || null })
    event.currentTarget.blur()
  }
  const option = (group: string) => (event: Event & { currentTarget: HTMLSelectElement }) => {
    bench.cutting.describe({ options: { ...now.options, [group]: event.currentTarget.value } })
    event.currentTarget.blur()
  }
</script>

<div
  class="facts flex flex-wrap items-center gap-1.5 px-3 py-1 text-sm"
  style="border-bottom: 1px solid var(--rule)"
  aria-label="Rep facts"
  data-testid="rep-facts"
>
  <span class="chosen"
    ><Combobox
      label="Performer"
      items={performers}
      value={now.student_id ?? bench.clip.student_id ?? ''}
      changed={perform}
      disabled={bench.finished}
      testid="performer"
      width="w-32"
    /></span
  >
  <span class="chosen"
    ><Combobox
      label="Technique"
      items={techniques}
      value={now.technique}
      changed={useTechnique}
      disabled={bench.rep !== null || bench.finished}
      testid="technique"
      width="w-40"
    /></span
  >
  <Segments
    label="Side"
    choices={[
      ['right', 'right'],
      ['left', 'left'],
    ]}
    value={now.side}
    changed={(side) => bench.cutting.describe({ side })}
    disabled={bench.finished}
    testid="side"
  />
  <Segments
    label="Pace"
    choices={[
      ['full', 'full'],
      ['slow', 'slow'],
    ]}
    value={now.pace ?? 'full'}
    changed={(pace) => bench.cutting.describe({ pace })}
    disabled={bench.finished}
    testid="pace"
  />
  <label
    ><span class="sr-only">Partner</span>
    <select class="field" value={now.partner} disabled={bench.finished} onchange={set('partner')}>
      {#each entries(PARTNERS) as [key, word] (key)}<option value={key}>{word}</option>{/each}
    </select>
  </label>
  {#if now.partner === 'person'}
    <span class="chosen"
      ><Combobox
        label="Who the partner is"
        placeholder="who the partner is"
        items={partners}
        value={now.partner_student_id ?? ''}
        changed={partner}
        disabled={bench.finished}
        testid="partner"
        width="w-36"
      /></span
    >
  {/if}
  <label
    ><span class="sr-only">Facing</span>
    <select class="field" value={now.heading} disabled={bench.finished} onchange={set('heading')}
      >{#each entries(HEADINGS) as [key, word] (key)}<option value={key}>{word}</option>{/each}</select
    >
  </label>
  <label
    ><span class="sr-only">View</span>
    <select class="field" data-testid="view" value={now.view} disabled={bench.finished} onchange={set('view')}>
      {#each entries(VIEWS) as [key, word] (key)}<option value={key}>{word}</option>{/each}
    </select>
  </label>
  <label
    ><span class="sr-only">Rung</span>
    <select class="field" value={now.rung ?? ''} disabled={bench.finished} onchange={set('rung')}>
      <option value="">no rung</option>
      {#each bench.technique?.ladder ?? [] as rung (rung)}<option value={rung}>{spoken(rung)}</option>{/each}
    </select>
  </label>
  <label
    ><span class="sr-only">Purpose</span><select
      class="field"
      value={now.purpose}
      disabled={bench.finished}
      onchange={say('purpose')}
    >
      {#each entries(PURPOSES) as [key, word] (key)}<option value={key}>{word}</option>{/each}</select
    ></label
  >
  <label
    ><span class="sr-only">Outcome</span><select
      class="field"
      value={now.outcome ?? ''}
      disabled={bench.finished}
      onchange={say('outcome')}
    >
      <option value="">no outcome</option>{#each entries(OUTCOMES) as [key, word] (key)}<option value={key}
          >{word}</option
        >{/each}</select
    ></label
  >
  {#each bench.technique?.options ?? [] as group (group.key)}
    <label
      ><span class="sr-only">{spoken(group.key)}</span><select
        class="field"
        value={now.options?.[group.key] ?? group.default}
        disabled={bench.finished}
        onchange={option(group.key)}
      >
        {#each group.choices as choice (choice.key)}<option value={choice.key}>{choice.name}</option>{/each}</select
      ></label
    >
  {/each}
  {#if bench.technique?.layers.length}
    <label
      ><span class="sr-only">Layer</span><select
        class="field"
        value={now.layer ?? ''}
        disabled={bench.finished}
        onchange={say('layer')}
      >
        <option value="">everything is asked</option>{#each bench.technique.layers as layer (layer.id)}<option
            value={layer.id}>only: {layer.name}</option
          >{/each}</select
      ></label
    >
    {#if bench.rep && now.layer && !bench.finished && others.some((rep) => rep.layer !== now.layer)}<button
        class="underline"
        onclick={() => bench.cutting.layerOfAll(now.layer ?? null)}>in every rep</button
      >{/if}
  {/if}
  {#if bench.technique?.starts.length}
    <label
      ><span class="sr-only">Start</span><select
        class="field"
        value={now.start ?? ''}
        disabled={bench.finished}
        onchange={say('start')}
      >
        <option value="">no start position</option>{#each bench.technique.starts as start (start.id)}<option
            value={start.id}>from: {start.says}</option
          >{/each}</select
      ></label
    >
  {/if}
  {#if bench.rep}<Tip text="Make the frame on screen a start: a position that the technique is drilled from"
      >{#snippet of(tip)}<button {...tip} class="underline" onclick={() => bench.cutting.makeStart()}
          ><kbd>⇧S</kbd> make this frame a start</button
        >{/snippet}</Tip
    >{/if}
  {#if !now.start}
    <label
      ><span class="sr-only">Starts at</span><select
        class="field"
        value={now.start_at ?? ''}
        disabled={bench.finished}
        onchange={say('start_at')}
      >
        <option value="">from the start</option>{#each phases.slice(1) as phase (phase)}<option value={phase}
            >starts at {spoken(phase)}</option
          >{/each}</select
      ></label
    >
  {/if}
  <label
    ><span class="sr-only">Ends with</span><select
      class="field"
      value={now.end_at ?? ''}
      disabled={bench.finished}
      onchange={say('end_at')}
    >
      <option value="">to the end</option>{#each phases.slice(0, -1) as phase (phase)}<option value={phase}
          >ends with {spoken(phase)}</option
        >{/each}</select
    ></label
  >
  {#if now.partner === 'person'}
    <label
      ><span class="sr-only">Stance</span><select
        class="field"
        value={now.stance ?? ''}
        disabled={bench.finished}
        onchange={say('stance')}
      >
        <option value="">no stance</option>{#each entries(STANCES) as [key, word] (key)}<option value={key}
            >{word}</option
          >{/each}</select
      ></label
    >
    {#if !now.start}<label
        ><span class="sr-only">Partner resists</span><select
          class="field"
          value={now.resists_from ?? ''}
          disabled={bench.finished}
          onchange={say('resists_from')}
        >
          <option value="">no resistance</option>{#each events as event (event)}<option value={event}
              >resists from {spoken(event)}</option
            >{/each}</select
        ></label
      >{/if}
    <label
      ><span class="sr-only">Partner’s reaction</span><input
        class="field w-36"
        maxlength="200"
        placeholder="partner’s reaction"
        value={now.reaction ?? ''}
        disabled={bench.finished}
        onchange={say('reaction')}
      /></label
    >
  {/if}
  {#if bench.rep && others.length}
    <label
      ><span class="sr-only">Linked to</span><select
        class="field"
        value={now.linked_to ?? ''}
        disabled={bench.finished}
        onchange={say('linked_to')}
      >
        <option value="">by itself</option>{#each others as rep (rep.id)}<option value={rep.id}
            >partner’s part of rep {bench.review.reps.indexOf(rep) + 1}</option
          >{/each}</select
      ></label
    >
  {/if}
  {#if bench.blind.can}<Tip
      text="Measure how closely you mark: mark the same rep again without seeing the first marking"
      >{#snippet of(tip)}<button {...tip} class="underline" onclick={() => void bench.blind.begin()}
          >mark again blind</button
        >{/snippet}</Tip
    >{/if}
</div>

<style>
  .field {
    min-height: 26px;
    padding: 0.1rem 0.3rem;
    max-width: 11rem;
    font-size: 0.85rem;
  }
  .facts :global(.segment) {
    padding: 0.1rem 0.45rem;
    font-size: 0.85rem;
  }
  .chosen :global(input) {
    min-height: 26px;
    padding: 0.1rem 1.4rem 0.1rem 0.3rem;
    font-size: 0.85rem;
    text-overflow: ellipsis;
  }
</style>
