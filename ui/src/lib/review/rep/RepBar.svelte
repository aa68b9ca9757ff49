<script lang="ts">
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
  const library = $derived(bench.library)
</script>

<div class="flex items-center gap-2 overflow-x-auto px-3" style="border-bottom: 1px solid var(--rule); height: 42px; flex: none">
  <a class="whitespace-nowrap font-[650]" href="#/students/{bench.clip.student_id}">{bench.clip.student}</a>
  <button class="field whitespace-nowrap" class:asks={!bench.clip.capture_sure} title="This clip: facts, capture rate, second view (I)" onclick={openClip}>clip{bench.clip.capture_sure ? '' : ' ?'}</button>
  <label><span class="sr-only">Performer</span>
    <select class="field performer" data-testid="performer" value={now.student_id ?? bench.clip.student_id} disabled={bench.finished} title="Who performs this rep"
      onchange={(event) => (bench.cutting.describe({ student_id: value(event) === bench.clip.student_id ? null : value(event) }), event.currentTarget.blur())}>
      {#each students.data ?? [{ id: bench.clip.student_id, name: bench.clip.student }] as student (student.id)}<option value={student.id}>{student.name}</option>{/each}
    </select>
  </label>
  <label><span class="sr-only">Technique</span>
    <select class="field technique" data-testid="technique" value={now.technique} disabled={bench.rep !== null || bench.finished} title={bench.rep ? 'A rep keeps the technique that it was cut for' : ''}
      onchange={(event) => (bench.cutting.describe({ technique: value(event), options: {} }), (bench.checkpointId = bench.technique?.checkpoints[0]?.id ?? null), event.currentTarget.blur())}>
      {#each library as technique (technique.id)}<option value={technique.id}>{technique.name}</option>{/each}
    </select>
  </label>
  <label><span class="sr-only">Side</span>
    <select class="field" data-testid="side" value={now.side} disabled={bench.finished} onchange={set('side')}><option value="right">right</option><option value="left">left</option></select>
  </label>
  <label><span class="sr-only">Pace</span>
    <select class="field" value={now.pace} disabled={bench.finished} onchange={set('pace')}><option value="full">full pace</option><option value="slow">slow</option></select>
  </label>
  <label><span class="sr-only">Partner</span>
    <select class="field" value={now.partner} disabled={bench.finished} onchange={set('partner')}>
      <option value="person">with a partner</option><option value="none">no partner</option><option value="bag">bag</option><option value="dummy">dummy</option>
    </select>
  </label>
  <label><span class="sr-only">Facing</span>
    <select class="field" value={now.heading} disabled={bench.finished} onchange={set('heading')}><option value="right">facing right →</option><option value="left">← facing left</option></select>
  </label>
  <label><span class="sr-only">View</span>
    <select class="field" data-testid="view" value={now.view} disabled={bench.finished} onchange={set('view')}>
      <option value="side">from the side</option><option value="front">from the front</option><option value="back">from behind</option><option value="oblique">from an angle</option>
    </select>
  </label>
  <label><span class="sr-only">Rung</span>
    <select class="field" value={now.rung ?? ''} disabled={bench.finished} onchange={set('rung')}>
      <option value="">rung not said</option>
      {#each bench.technique?.ladder ?? [] as rung (rung)}<option value={rung}>{spoken(rung)}</option>{/each}
    </select>
  </label>
  <button class="field whitespace-nowrap" aria-pressed={factsOpen} title="Rep facts: purpose, outcome, start and end, options (B)" onclick={facts}>facts {factsOpen ? '▴' : '▾'}</button>
  <span class="ml-auto flex items-center gap-1" aria-label="Reps">
    {#each bench.review.reps as rep, i (rep.id)}
      <button class="num rep" class:current={rep.id === bench.repId} aria-pressed={rep.id === bench.repId} onclick={() => bench.choose(rep.id)} aria-label={rep.blind_of ? `Rep ${bench.numberOf(rep)} again, blind` : `Rep ${i + 1}`}>{rep.blind_of ? `${bench.numberOf(rep)}b` : i + 1}</button>
    {/each}
    {#if !bench.finished}<button class="rep" class:current={bench.rep === null} onclick={() => bench.choose(null)} title="Cut a new rep (R)">+ rep</button>{/if}
  </span>
</div>

<style>
  .field {
    padding: 0.1rem 0.3rem;
    font-size: 0.85rem;
  }
  .performer,
  .technique {
    max-width: 8.5rem;
    text-overflow: ellipsis;
  }
  .asks {
    border-color: var(--alarm);
    color: var(--alarm);
    font-weight: 650;
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
