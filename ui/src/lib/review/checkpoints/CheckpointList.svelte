<script lang="ts">
  import type { Judgement } from '../../api/client'
  import Glyph from '../../parts/Glyph.svelte'
  import { CHOICES, VERDICTS } from '../../parts/labels'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import Whisker from './Whisker.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const reps = $derived(bench.reps.filter((rep) => rep.technique === bench.technique?.id))
  const digits: Record<string, number> = { deg: 1, ms: 0, frames: 0 }
  const figure = (j: Judgement) => {
    const places = j.unit ? (digits[j.unit] ?? 2) : 2
    return {
      value: j.value?.toFixed(places) ?? '',
      u: j.uncertainty ? `±${j.uncertainty.toFixed(places)}` : '',
      unit: j.unit === 'deg' ? '°' : (j.unit ?? ''),
    }
  }
  const moved = $derived(new Set(bench.changed.filter((one) => one.rep === bench.repId).map((one) => one.checkpoint)))
  let list = $state<HTMLElement>()
  // Keep the current checkpoint in sight when it is chosen by key.
  $effect(
    () => void list?.querySelector(`[data-checkpoint="${bench.checkpointId}"]`)?.scrollIntoView({ block: 'nearest' }),
  )
</script>

<div bind:this={list} class="min-h-0 flex-1 overflow-auto" role="listbox" aria-label="Checkpoints in order">
  <div class="row head sticky top-0 text-sm" style="background: var(--page); border-bottom: 2px solid var(--ink)">
    <span><b>Checkpoints</b> <span class="soft">in order</span></span>
    <span class="cells"
      >{#each reps as rep (rep.id)}<span
          class="num cell"
          class:current={rep.id === bench.repId}
          class:wrong={rep.choice === 'wrong'}
          title={rep.choice ? CHOICES[rep.choice] : null}>{bench.review.reps.indexOf(rep) + 1}</span
        >{/each}</span
    >
    <span class="soft wide text-xs">wanted · seen ± u</span>
    <span class="num text-right text-xs">{bench.rep ? `rep ${bench.review.reps.indexOf(bench.rep) + 1}` : ''}</span>
  </div>
  {#if bench.rep?.choice === 'wrong'}<p class="px-3 py-1 text-sm" style="color: var(--alarm)" data-testid="choice">
      <b>Wrong choice:</b> it was not open in this rep, so how it was done is shown and does not count.
    </p>{:else if bench.rep?.choice === 'unknown'}<p class="soft px-3 py-1 text-sm" data-testid="choice">
      Whether it was open in this rep cannot be told yet.
    </p>{/if}
  {#each bench.technique?.phases ?? [] as phase (phase)}
    {@const inPhase = bench.technique?.checkpoints.filter((c) => c.phase === phase) ?? []}
    {#if inPhase.length}
      <p class="soft px-3 pt-1.5 text-xs font-semibold">{spoken(phase)}</p>
      {#each inPhase as checkpoint (checkpoint.id)}
        {@const judgement = bench.judgements.find((j) => j.id === checkpoint.id)}
        <button
          class="row w-full text-left"
          class:chosen={checkpoint.id === bench.checkpointId}
          class:moved={moved.has(checkpoint.id)}
          role="option"
          aria-selected={checkpoint.id === bench.checkpointId}
          data-checkpoint={checkpoint.id}
          data-verdict={judgement?.verdict}
          onclick={() => bench.chooseCheckpoint(checkpoint.id)}
        >
          <span class="ask"
            >{checkpoint.ask}{#if checkpoint.safety}<span class="ml-1 text-xs font-semibold" style="color: var(--alarm)"
                >safety</span
              >{/if}{#if checkpoint.entry}<span class="tag">was it open?</span
              >{/if}{#if checkpoint.kind === 'reaction'}<span class="tag">partner</span>{/if}</span
          >
          <span class="cells">
            {#each reps as rep (rep.id)}
              {@const judged = rep.judgements.find((j) => j.id === checkpoint.id)}
              {@const verdict = judged?.verdict ?? 'not_asked'}
              {@const mine = judged?.measured != null}
              <span
                class="cell"
                data-cell={verdict}
                class:current={rep.id === bench.repId}
                class:mine
                class:aside={judged?.counts === false}
                title={mine
                  ? 'overruled by you'
                  : judged?.counts === false
                    ? 'does not count: it was not open in this rep'
                    : null}><Glyph {verdict} /></span
              >
            {/each}
          </span>
          <span class="wide">
            {#if judgement && judgement.value !== null && !checkpoint.by_eye}<Whisker {judgement} />
            {:else if checkpoint.by_eye}<span class="soft text-xs">by eye</span>{/if}
          </span>
          <span class="text-right text-sm">
            {#if judgement && judgement.value !== null && !checkpoint.by_eye}
              {@const f = figure(judgement)}
              <!-- A long unit goes under its number: it must not run over the edge. -->
              <span class="num inline-flex flex-wrap justify-end gap-x-1 leading-tight"
                ><span class="whitespace-nowrap">{f.value} <span class="soft">{f.u}</span></span>{' '}<span
                  class:long={f.unit.length > 3}>{f.unit.replaceAll('_', ' ')}</span
                ></span
              >
            {:else}<span class="soft text-xs">{judgement ? VERDICTS[judgement.verdict] : ''}</span>{/if}
          </span>
        </button>
      {/each}
    {/if}
  {/each}
</div>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto 96px 104px;
    gap: 0.5rem;
    align-items: center;
    padding: 0.28rem 0.75rem;
    border-bottom: 1px solid var(--rule);
    border-left: 4px solid transparent;
    min-height: 2.1rem;
  }
  /* On a phone the range gives way: the value says enough. */
  @media (max-width: 760px) {
    .row {
      grid-template-columns: minmax(0, 1fr) auto 92px;
    }
    .wide {
      display: none;
    }
  }
  .ask {
    font-size: 0.87rem;
    line-height: 1.2;
  }
  button.row:hover {
    background: var(--band);
  }
  .chosen {
    border-left-color: var(--performer);
    background: var(--band);
  }
  .moved {
    animation: flash 2.5s ease-out;
  }
  @keyframes flash {
    from {
      background: var(--flash);
    }
  }
  @media (prefers-reduced-motion: reduce) {
    .moved {
      animation: none;
      outline: 2px solid var(--performer);
      outline-offset: -2px;
    }
  }
  .cells {
    display: flex;
    min-width: 1.5rem;
  }
  .cell {
    display: grid;
    place-items: center;
    width: 1.4rem;
    min-height: 1.4rem;
  }
  .cell.mine {
    border-bottom: 2px solid var(--ink);
  }
  .cell.aside {
    opacity: 0.4;
  }
  .cell.wrong {
    border-bottom: 3px solid var(--alarm);
  }
  .tag {
    margin-left: 0.3rem;
    color: var(--soft);
    font-size: 0.75rem;
    white-space: nowrap;
  }
  .head .current {
    font-weight: 600;
    background: var(--performer);
    color: var(--page);
  }
  .long {
    font-size: 0.78rem;
  }
  .wide {
    width: 96px;
  }
</style>
