<script lang="ts">
  import { clock, spoken } from '../parts/words'
  import type { Bench } from './bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  let width = $state(800)
  const ROWS = 3

  /** First and last frame on the strand: the rep with a margin, else the whole clip. */
  const span = $derived.by(() => {
    const last = bench.clip.pts_s.length - 1
    const rep = bench.rep
    if (!rep) return { from: 0, to: Math.max(last, 1) }
    const margin = Math.max(4, Math.round((rep.last_frame - rep.first_frame) * 0.08))
    return { from: Math.max(0, rep.first_frame - margin), to: Math.min(last, rep.last_frame + margin) }
  })
  const x = (frame: number) => ((frame - span.from) / Math.max(span.to - span.from, 1)) * (width - 16) + 8

  const ticks = $derived.by(() => {
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 5000].find((s) => (span.to - span.from) / s <= 14) ?? 10000
    const first = Math.ceil(span.from / step) * step
    return Array.from({ length: Math.floor((span.to - first) / step) + 1 }, (_, i) => first + i * step)
  })

  /** Stretches between the first events of the phases. */
  const phases = $derived.by(() => {
    const rep = bench.rep
    const technique = bench.technique
    if (!rep || !technique) return []
    let start = rep.first_frame
    const starts: { phase: string; from: number }[] = []
    for (const phase of technique.phases) {
      const frames = technique.events.filter((e) => e.phase === phase).flatMap((e) => rep.events[e.key] ?? [])
      if (phase === technique.phases[0]) starts.push({ phase, from: start })
      else if (frames.length) starts.push({ phase, from: (start = Math.min(...frames)) })
    }
    return starts.map((entry, i) => ({ ...entry, to: starts[i + 1]?.from ?? rep.last_frame }))
  })

  /** Event pegs, their labels laid out in rows so that none covers another. */
  const pegs = $derived.by(() => {
    const rep = bench.rep
    const keys = bench.technique?.events.map((event) => event.key) ?? []
    const found = keys.flatMap((key, i) => (rep?.events[key] ?? []).map((frame) => ({ key, number: i + 1, frame, at: x(frame) })))
    const ends: number[] = Array.from({ length: ROWS }, () => -1)
    return found
      .sort((a, b) => a.at - b.at)
      .map((peg) => {
        const long = spoken(peg.key).length * 6.6 + 26
        const row = Math.max(0, ends.findIndex((end) => end < peg.at))
        const left = peg.at + long > width
        ends[row] = peg.at + long
        return { ...peg, row, left }
      })
  })

  function seek(event: PointerEvent): void {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect()
    bench.player.go(span.from + ((event.clientX - box.left - 8) / (width - 16)) * (span.to - span.from))
  }
  const next = $derived(bench.technique?.events.find((event) => event.key === bench.nextEvent))
  const nextNumber = $derived((bench.technique?.events.findIndex((event) => event.key === bench.nextEvent) ?? 0) + 1)
  const inRep = $derived.by(() => {
    const rep = bench.rep
    if (!rep) return ''
    const number = bench.review.reps.indexOf(rep) + 1
    const at = bench.player.shown - rep.first_frame + 1
    return at >= 1 && bench.player.shown <= rep.last_frame ? `${at} of ${rep.last_frame - rep.first_frame + 1} in rep ${number}` : `outside rep ${number}`
  })
</script>

<div class="flex items-baseline gap-5 pt-1">
  <span class="num text-3xl font-semibold" data-testid="frame" aria-label="frame">{bench.player.shown}</span>
  <span class="num soft text-sm">{clock(bench.clip.pts_s[bench.player.shown] ?? 0)} {inRep && `· ${inRep}`}</span>
  <span class="soft ml-auto text-sm"><kbd>←</kbd> <kbd>→</kbd> frame &nbsp; <kbd>space</kbd> {bench.player.playing ? 'stops' : 'plays'} at {bench.player.speed}× &nbsp; <kbd>?</kbd> keys</span>
</div>
<div bind:clientWidth={width}>
  <svg class="block w-full touch-none" height="112" role="slider" aria-label="Frames" aria-valuemin={span.from} aria-valuemax={span.to} aria-valuenow={bench.player.shown} tabindex="-1"
    onpointerdown={(event) => (event.currentTarget.setPointerCapture(event.pointerId), seek(event))}
    onpointermove={(event) => event.buttons & 1 && seek(event)}>
    {#if bench.rep}
      {#each phases as phase, i (phase.phase)}
        <rect x={x(phase.from)} y="0" width={Math.max(x(phase.to) - x(phase.from) - 2, 0)} height="20" fill={i % 2 ? 'var(--rule)' : 'var(--band)'} />
        {#if x(phase.to) - x(phase.from) > 40}<text x={x(phase.from) + 5} y="14" font-size="12" font-weight="600" fill="var(--ink)">{spoken(phase.phase)}</text>{/if}
      {/each}
    {:else}
      {#each bench.review.reps as rep, i (rep.id)}
        <rect x={x(rep.first_frame)} y="0" width={Math.max(x(rep.last_frame) - x(rep.first_frame), 2)} height="20" fill="var(--rule)" />
        <text x={x(rep.first_frame) + 5} y="14" font-size="12" font-weight="600" fill="var(--ink)">rep {i + 1}</text>
      {/each}
      {#if bench.draft.first_frame >= 0}<rect x={x(bench.draft.first_frame)} y="0" width="3" height="40" fill="var(--performer)" />{/if}
      {#if bench.draft.last_frame >= 0}<rect x={x(bench.draft.last_frame)} y="0" width="3" height="40" fill="var(--performer)" />{/if}
    {/if}
    <line x1="8" x2={width - 8} y1="26" y2="26" stroke="var(--soft)" />
    {#each ticks as tick (tick)}
      <line x1={x(tick)} x2={x(tick)} y1="26" y2="33" stroke="var(--soft)" />
      <text x={x(tick) + 3} y="40" font-size="10.5" class="num" fill="var(--soft)">{tick}</text>
    {/each}
    {#each pegs as peg (peg.key + peg.frame)}
      <line x1={peg.at} x2={peg.at} y1="26" y2={56 + peg.row * 19} stroke="var(--performer)" stroke-width="1.5" />
    {/each}
    {#each pegs as peg (peg.key + peg.frame)}
      <text data-peg={peg.key} data-frame={peg.frame} stroke="var(--page)" stroke-width="4" paint-order="stroke" x={peg.left ? peg.at - 4 : peg.at + 4} y={60 + peg.row * 19} text-anchor={peg.left ? 'end' : 'start'} font-size="12" fill="var(--performer)"><tspan class="num" font-size="10.5">{peg.number}</tspan> {spoken(peg.key)}</text>
    {/each}
    <line x1={x(bench.player.shown)} x2={x(bench.player.shown)} y1="0" y2="112" stroke="var(--alarm)" stroke-width="2" />
  </svg>
</div>
<div class="flex items-center gap-3 pt-1 text-sm" style="border-top: 1px solid var(--rule); min-height: 2.6rem" data-testid="next-event">
  {#if bench.finished}<span class="font-semibold">Finished.</span> <span class="soft">This review is kept as it was.</span>
  {:else if !bench.rep}
    <span class="font-semibold">Cut a rep:</span>
    <span><kbd>[</kbd> at its first frame{bench.draft.first_frame >= 0 ? ` (${bench.draft.first_frame})` : ''}, <kbd>]</kbd> at its last{bench.draft.last_frame >= 0 ? ` (${bench.draft.last_frame})` : ''}.</span>
  {:else if next}
    <span class="whitespace-nowrap font-semibold">Next: {spoken(next.key)}</span>
    <span class="soft">{next.mark}.</span>
    <span class="ml-auto whitespace-nowrap"><kbd>{nextNumber}</kbd> or <kbd>Enter</kbd> here &nbsp; <kbd>⇧{nextNumber}</kbd> did not happen</span>
  {:else}<span class="font-semibold">All events are marked.</span> <span class="soft">A number key at another frame moves its event.</span>{/if}
</div>
