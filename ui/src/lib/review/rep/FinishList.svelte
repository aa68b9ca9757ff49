<script lang="ts">
  import Dialog from '../../parts/Dialog.svelte'
  import { spoken } from '../../parts/words'
  import type { Rep } from '../../api/client'
  import type { Bench } from '../state/bench.svelte'
  import type { Left } from '../state/guide.svelte'

  interface Props {
    bench: Bench
    open: boolean
    busy: boolean
    finish: () => void
  }
  /** What is left before a review is finished, with a key to each; it may be finished all the same. */
  let { bench, open = $bindable(), busy, finish }: Props = $props()
  const KINDS: Record<Left['kind'], string> = {
    event: 'Events not marked',
    height: 'No scale',
    lengths: 'No scale: limb lengths not read off a still frame',
    seed: 'Too few points to track',
    track: 'Not tracked',
    points: 'Points missing',
    poor: 'Tracked poorly',
    answer: 'Questions without an answer',
    not_seen: 'Not seen',
    undecided: 'Borderline: look again, and overrule where you are sure',
  }
  interface Row {
    key: string
    words: string
    go: () => void
  }
  const named = (rep: Rep, left: Left) =>
    `Rep ${bench.numberOf(rep)}: ${left.kind === 'event' ? spoken(left.event ?? '') : left.words}`
  const groups = $derived.by(() => {
    const found: { title: string; rows: Row[] }[] = []
    const cuts = bench.review.proposals.map((cut, i) => ({
      key: `cut.${i}`,
      words: `Frames ${cut.first}–${cut.last}`,
      go: () => {
        bench.choose(null)
        bench.player.go(cut.first)
      },
    }))
    if (cuts.length) found.push({ title: 'Proposed cuts, neither accepted nor dropped', rows: cuts })
    for (const kind of Object.keys(KINDS) as Left['kind'][]) {
      const rows = bench.reps.flatMap((rep) =>
        rep.left
          .filter((one) => one.kind === kind && !(kind === 'not_seen' && asked(rep, one)))
          .map((one) => ({
            key: `${rep.id}.${kind}.${one.event ?? one.checkpoint ?? one.body}.${one.landmark ?? ''}`,
            words: named(rep, one),
            go: () => bench.guide.goTo(rep, one),
          })),
      )
      if (rows.length) found.push({ title: KINDS[kind], rows })
    }
    return found
  })
  /** What lacks points only is told once. */
  const asked = (rep: Rep, left: Left) =>
    rep.left.some((one) => one.kind === 'points' && one.checkpoint === left.checkpoint)
  const rows = $derived(groups.flatMap((group) => group.rows))
  function go(row: Row): void {
    open = false
    row.go()
  }
  function key(event: KeyboardEvent): void {
    const row = rows[Number(event.key) - 1]
    if (!open || !/^[1-9]$/.test(event.key) || !row) return
    event.preventDefault()
    event.stopPropagation()
    go(row)
  }
</script>

<svelte:window onkeydowncapture={key} />
<Dialog bind:open title="Finish the review" width="max-w-2xl">
  {#if rows.length === 0}
    <p class="mt-2">Everything is marked, seen and answered.</p>
  {:else}
    <p class="mt-2">
      {rows.length}
      {rows.length === 1 ? 'thing is' : 'things are'} left. Go back to any of them, or finish: what was not seen counts nowhere.
    </p>
    <div class="mt-3 max-h-[50vh] overflow-auto text-sm" data-testid="left">
      {#each groups as group (group.title)}
        <h3 class="mt-2 font-semibold">{group.title}</h3>
        <ul>
          {#each group.rows as row (row.key)}
            {@const number = rows.indexOf(row) + 1}
            <li class="flex gap-2 py-0.5">
              <span class="w-6 flex-none"
                >{#if number < 10}<kbd>{number}</kbd>{/if}</span
              >
              <button class="min-h-6 text-left underline" onclick={() => go(row)}>{row.words}</button>
            </li>
          {/each}
        </ul>
      {/each}
    </div>
  {/if}
  {#if bench.saver.failure}<p class="notice bad mt-3" role="alert">{bench.saver.failure}</p>{/if}
  <div class="mt-5 flex justify-end gap-3">
    <button class="button" onclick={() => (open = false)}>Go on reviewing</button>
    <!-- svelte-ignore a11y_autofocus -->
    <button class="button main" disabled={busy} autofocus onclick={finish}
      >{rows.length === 0 ? 'Finish' : 'Finish anyway'}</button
    >
  </div>
</Dialog>
