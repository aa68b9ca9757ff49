<script lang="ts">
  import { HEADINGS, PARTNERS, VIEWS, entries } from '../../parts/labels'
  import ChevronDown from '@lucide/svelte/icons/chevron-down'
  import ChevronUp from '@lucide/svelte/icons/chevron-up'
  import Film from '@lucide/svelte/icons/film'
  import Tip from '../../parts/Tip.svelte'
  import Combobox from '../../parts/Combobox.svelte'
  import Segments from '../../parts/Segments.svelte'
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type RepForm } from '../../api/client'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
    openClip: () => void
    /** Shows or hides the line of rep facts. */
    facts: () => void
    factsOpen: boolean
  }
  let { bench, openClip, facts, factsOpen }: Props = $props()
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const now = $derived<Omit<RepForm, 'first_frame' | 'last_frame'>>(bench.rep ?? bench.cutting.draft)
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
  function useTechnique(technique: string): void {
    bench.cutting.describe({ technique, options: {} })
    bench.checkpointId = bench.technique?.checkpoints[0]?.id ?? null
  }
</script>

<div
  class="repbar flex items-center gap-2 overflow-x-auto px-3"
  style="border-bottom: 1px solid var(--rule); height: 42px; flex: none"
>
  <a class="whitespace-nowrap font-[650]" href="#/students/{bench.clip.student_id}">{bench.clip.student}</a>
  <Tip text="Capture rate, frame of reference, second view (key I)"
    >{#snippet of(tip)}<button
        {...tip}
        class="field flex items-center gap-1 whitespace-nowrap {bench.clip.capture_sure ? '' : 'asks'}"
        onclick={openClip}><Film size={14} aria-hidden="true" />clip{bench.clip.capture_sure ? '' : ' ?'}</button
      >{/snippet}</Tip
  >
  <span class="pick"
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
  <span class="pick"
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
  <Tip text="Purpose, outcome, start and end, options (key B)"
    >{#snippet of(tip)}<button
        {...tip}
        class="field flex items-center gap-1 whitespace-nowrap"
        aria-pressed={factsOpen}
        onclick={facts}
        >facts {#if factsOpen}<ChevronUp size={14} aria-hidden="true" />{:else}<ChevronDown
            size={14}
            aria-hidden="true"
          />{/if}</button
      >{/snippet}</Tip
  >
  <span class="reps ml-auto flex items-center gap-1" aria-label="Reps">
    {#each bench.review.reps as rep, i (rep.id)}
      <button
        class="num rep"
        class:current={rep.id === bench.repId}
        aria-pressed={rep.id === bench.repId}
        onclick={() => bench.choose(rep.id)}
        aria-label={rep.blind_of ? `Rep ${bench.numberOf(rep)} again, blind` : `Rep ${i + 1}`}
        >{rep.blind_of ? `${bench.numberOf(rep)}b` : i + 1}</button
      >
    {/each}
    {#if !bench.finished}<button
        class="rep"
        class:current={bench.rep === null}
        onclick={() => bench.choose(null)}
        aria-keyshortcuts="r">+ rep</button
      >{/if}
  </span>
</div>

<style>
  .field {
    padding: 0.1rem 0.3rem;
    font-size: 0.85rem;
  }
  .repbar :global(.segment) {
    padding: 0.1rem 0.45rem;
    font-size: 0.85rem;
  }
  .pick :global(input) {
    padding: 0.1rem 1.4rem 0.1rem 0.3rem;
    font-size: 0.85rem;
    text-overflow: ellipsis;
  }
  :global(.asks) {
    border-color: var(--alarm);
    color: var(--alarm);
    font-weight: 650;
  }
  .repbar > label {
    flex: 0 1 auto;
    min-width: 4.5rem;
  }
  select.field {
    width: 100%;
    text-overflow: ellipsis;
  }
  .reps {
    flex: 0 1 auto;
    min-width: 8rem;
    overflow-x: auto;
  }
  .reps > :first-child {
    margin-left: auto;
  }
  .rep {
    border: 1px solid var(--soft);
    padding: 0.1rem 0.6rem;
    white-space: nowrap;
  }
  .rep.current {
    background: var(--performer);
    border-color: var(--performer);
    color: var(--page);
  }
</style>
