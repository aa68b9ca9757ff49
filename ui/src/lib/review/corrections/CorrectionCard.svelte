<script lang="ts">
  import { ToggleGroup } from '@skeletonlabs/skeleton-svelte'
  import JobProgress from '../../jobs/JobProgress.svelte'
  import { jobOf } from '../../jobs/jobs'
  import { spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import { KINDS, type MarkKind } from '../state/corrections.svelte'
  import Voice from './Voice.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const own = $derived(bench.corrections)
  const open = $derived(own.open)
  let cue = $state('')
  let field = $state<HTMLInputElement>()
  let known = $state<string | null>(null)
  // The words are asked for as soon as the correction is there, filled in with the checkpoint's own.
  $effect(() => {
    if (!open || known === open.id) return
    known = open.id
    cue = open.cue
    const busy = own.speaking || own.placing !== null
    if (!busy) queueMicrotask(() => (field?.focus(), field?.select()))
  })
  function save(event: SubmitEvent): void {
    event.preventDefault()
    if (!open || !cue.trim()) return
    if (cue.trim() !== open.cue) own.change({ cue: cue.trim() })
    own.close()
  }
  /** The coach’s own words for this before, then the technique’s. */
  const phrases = $derived(own.phrases.filter((one) => one !== cue).slice(0, 4))
  const wantedOf = (event: Event) => {
    const value = (event.currentTarget as HTMLInputElement).valueAsNumber
    return Number.isFinite(value) ? value : null
  }
  function add(kind: string | undefined): void {
    if (kind && kind in KINDS) own.place(kind as MarkKind)
  }
  const drawing = $derived(
    open?.example && !open.example.ready ? jobOf(bench.review.jobs, 'draw_example', open.id) : null,
  )
</script>

{#if !open}<p class="soft mt-2 text-sm" role="status">Making the correction…</p>
{:else}
  <div class="mt-1 text-sm" data-testid="correction">
    <form onsubmit={save} class="flex gap-2">
      <label class="flex-1"
        ><span class="sr-only">Cue</span><input
          bind:this={field}
          bind:value={cue}
          class="field w-full"
          maxlength="200"
          required
          data-testid="cue"
          onkeydown={(event) => event.key === 'Escape' && own.close()}
        /></label
      >
      <button class="button main">Save <kbd>↵</kbd></button>
    </form>
    {#if phrases.length}<p class="mt-1 flex flex-wrap gap-1" aria-label="Words for it">
        {#each phrases as phrase (phrase)}<button type="button" class="chip" onclick={() => (cue = phrase)}
            >“{phrase}”</button
          >{/each}
      </p>{/if}
    <ul class="mt-1">
      {#each open.marks as mark, i (i)}
        <li class="flex items-center gap-2">
          <b class="whitespace-nowrap">{KINDS[mark.kind].name}</b>
          {#if mark.kind === 'angle'}<label class="flex items-center whitespace-nowrap"
              ><span class="sr-only">wanted</span><input
                class="field num w-20"
                type="number"
                step="1"
                min="-360"
                max="360"
                value={mark.wanted ?? ''}
                onchange={(event) => own.setMark(i, { wanted: wantedOf(event) })}
              />°</label
            >{/if}
          <span class="soft min-w-0 truncate"
            >{mark.spots.map((spot) => (spot.landmark ? spoken(spot.landmark) : 'a place')).join(' · ')}</span
          >
          <button
            class="ml-auto whitespace-nowrap underline"
            onclick={() => own.setMark(i, null)}
            aria-label="Remove: {KINDS[mark.kind].name}">remove</button
          >
        </li>
      {:else}<li class="soft">No mark on the picture yet: add one, or use the cue alone.</li>{/each}
    </ul>
    <ToggleGroup
      value={own.placing ? [own.placing.kind] : []}
      onValueChange={(details) => add(details.value[0])}
      class="mt-1 flex flex-wrap gap-1"
      aria-label="Add a mark"
    >
      {#each Object.entries(KINDS) as [kind, { name }] (kind)}
        <ToggleGroup.Item value={kind} class="chip {own.placing?.kind === kind ? 'asked' : ''}"
          >+ {name}</ToggleGroup.Item
        >
      {/each}
    </ToggleGroup>
    <div class="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
      <span
        >shown <span class="num">{open.first_frame}–{open.last_frame}</span>, stops at
        <span class="num">{open.frame}</span></span
      >
      <button class="underline" onclick={() => own.frames('first_frame')}>from here</button>
      <button class="underline" onclick={() => own.frames('frame')}>stop here</button>
      <button class="underline" onclick={() => own.frames('last_frame')}>up to here</button>
    </div>
    <div class="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
      <label class="flex items-center gap-1"
        >Example
        <select
          class="field"
          value={open.example?.source ?? ''}
          onchange={(event) => (
            own.example((event.currentTarget.value || null) as 'own' | 'other' | 'reference' | null),
            event.currentTarget.blur()
          )}
          data-testid="example"
        >
          <option value="">nothing</option>
          {#each own.choices as choice (choice.source)}<option value={choice.source}>{choice.words}</option>{/each}
        </select>
      </label>
      {#if drawing && drawing.state !== 'done'}<JobProgress job={drawing} changed={() => bench.refresh()} />{/if}
      <Voice {bench} />
    </div>
    <div class="mt-1 flex flex-wrap gap-x-4">
      {#if own.alike.length}<button class="underline" onclick={() => own.copy()}
          ><kbd>Z</kbd> copy to rep {own.alike.map((rep) => rep.number).join(', ')}</button
        >{/if}
      <button class="underline" onclick={() => own.remove()}>delete</button>
      <span class="soft">Drag a mark’s corner; near a joint it snaps to it.</span>
    </div>
  </div>
{/if}
