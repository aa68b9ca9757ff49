<script lang="ts">
  import ChevronDown from '@lucide/svelte/icons/chevron-down'
  import ChevronUp from '@lucide/svelte/icons/chevron-up'
  import Film from '@lucide/svelte/icons/film'
  import Tip from '../../parts/Tip.svelte'
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type RepForm } from '../../api/client'
  import type { Bench } from '../state/bench.svelte'
  import { differs, saidOf } from './said'

  interface Props {
    bench: Bench
    openClip: () => void
    /** Shows or hides the line of rep facts. */
    facts: () => void
    factsOpen: boolean
  }
  let { bench, openClip, facts, factsOpen }: Props = $props()
  const library = $derived([...bench.review.techniques, ...bench.library])
  const now = $derived<Omit<RepForm, 'first_frame' | 'last_frame'>>(bench.rep ?? bench.cutting.draft)
  /** Whose rep it is, where it is not the clip’s student. */
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const studentName = (id: string) => students.data?.find((one) => one.id === id)?.name ?? ''
  const words = $derived(saidOf(now, library, bench.clip.student_id ?? '', studentName))
  /** What other reps say otherwise. */
  const differing = $derived(bench.rep ? differs(bench.rep, bench.reps, library) : '')
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
  <button class="line" aria-expanded={factsOpen} title="Change how it was done (B)" onclick={facts}
    ><span class="sr-only">How it was done: </span><span class="said"
      ><b>{words[0]}</b>{#each words.slice(1) as word (word)}<span class="soft">{' · '}</span>{word}{/each}</span
    >{#if factsOpen}<ChevronUp size={15} aria-hidden="true" />{:else}<ChevronDown
        size={15}
        aria-hidden="true"
      />{/if}</button
  >
  {#if differing}<span class="soft text-sm whitespace-nowrap" data-testid="differing">{differing}</span>{/if}
  <span class="reps ml-auto flex items-center gap-1" role="group" aria-label="Reps">
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
    {#if !bench.finished && bench.review.proposals.length > 0 && bench.rep}<button
        class="rep asks"
        onclick={() => bench.choose(null)}
        title="Cuts that are proposed and neither accepted nor dropped">{bench.review.proposals.length} proposed</button
      >{/if}
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
  .line {
    display: flex;
    min-width: 0;
    align-items: center;
    gap: 0.25rem;
    font-size: 0.9rem;
    text-align: left;
  }
  .line:hover .said {
    text-decoration: underline;
  }
  .said {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  :global(.asks) {
    border-color: var(--alarm);
    color: var(--alarm);
    font-weight: 650;
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
