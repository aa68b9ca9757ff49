<script lang="ts">
  import ChevronLeft from '@lucide/svelte/icons/chevron-left'
  import ChevronRight from '@lucide/svelte/icons/chevron-right'
  import { clock, shownSpeed, spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import CurveBand from './CurveBand.svelte'
  import Filmstrip from './Filmstrip.svelte'
  import Neighbours from '../checkpoints/Neighbours.svelte'
  import GuideLine from '../rep/GuideLine.svelte'
  import { layPegs } from './pegs'
  import Traces from './Traces.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  let width = $state(800)
  const ROWS = 2
  /** Heights of the bands, pixels from the top: phases or cuts, film, traces, ruler, pegs. */
  const FILM = { top: 22, height: 44 }
  const TRACE_TOP = FILM.top + FILM.height + 2
  const TRACE_HEIGHT = 30
  const RULER = TRACE_TOP + TRACE_HEIGHT + 2
  const HEIGHT = RULER + 20 + ROWS * 18
  const EDGE = 6

  const span = $derived(bench.strand.shown)
  const x = (frame: number) => ((frame - span.from) / Math.max(span.to - span.from, 1)) * (width - 16) + 8
  const frameAtX = (at: number) => span.from + ((at - 8) / (width - 16)) * (span.to - span.from)
  const within = (frame: number) => frame >= span.from && frame <= span.to
  const clip = (from: number, to: number) => ({
    at: Math.max(x(from), 0),
    wide: Math.max(Math.min(x(to), width) - Math.max(x(from), 0), 2),
  })

  const ticks = $derived.by(() => {
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 5000].find((s) => (span.to - span.from) / s <= 14) ?? 10000
    const first = Math.ceil(span.from / step) * step
    return Array.from({ length: Math.max(Math.floor((span.to - first) / step) + 1, 0) }, (_, i) => first + i * step)
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
    const keys = bench.marking.events.map((event) => event.key)
    const found = keys.flatMap((key, i) =>
      (rep?.events[key] ?? []).map((frame) => ({ key, name: spoken(key), number: i + 1, frame, at: x(frame) })),
    )
    return layPegs(
      found.filter((peg) => within(peg.frame)),
      bench.player.shown,
      width,
      ROWS,
    )
  })

  let svg = $state<SVGSVGElement>()
  const place = (event: PointerEvent | WheelEvent) => event.clientX - (svg?.getBoundingClientRect().left ?? 0)

  /** The edge of a proposed cut under the pointer, in the band at the top. */
  function edgeAt(event: PointerEvent): { index: number; side: 0 | 1 } | null {
    const top = svg?.getBoundingClientRect().top ?? 0
    if (event.clientY - top > FILM.top || bench.rep || bench.finished) return null
    const at = place(event)
    for (const [index, { first, last }] of bench.cutting.proposals.entries()) {
      if (Math.abs(x(first) - at) <= EDGE) return { index, side: 0 }
      if (Math.abs(x(last) - at) <= EDGE) return { index, side: 1 }
    }
    return null
  }

  let held: { index: number; side: 0 | 1 } | null = null
  function down(event: PointerEvent): void {
    svg?.setPointerCapture(event.pointerId)
    held = edgeAt(event)
    if (held) drag(event)
    else bench.player.go(frameAtX(place(event)))
  }
  function move(event: PointerEvent): void {
    if (!(event.buttons & 1)) return
    if (held) drag(event)
    else bench.player.go(frameAtX(place(event)))
  }
  function drag(event: PointerEvent): void {
    const cut = held && bench.cutting.proposals[held.index]
    if (!held || !cut) return
    const frame = Math.max(0, Math.min(bench.player.last, Math.round(frameAtX(place(event)))))
    const { first, last } = cut
    bench.cutting.dragged = {
      index: held.index,
      cut: held.side === 0 ? { first: Math.min(frame, last), last } : { first, last: Math.max(frame, first) },
    }
    bench.player.go(frame)
  }
  function up(): void {
    if (held && bench.cutting.dragged) bench.cutting.move(bench.cutting.dragged.index, bench.cutting.dragged.cut)
    held = bench.cutting.dragged = null
  }
  function wheel(event: WheelEvent): void {
    event.preventDefault()
    bench.strand.zoom(event.deltaY > 0 ? 1.25 : 0.8, frameAtX(place(event)))
  }

  const next = $derived(bench.marking.events.find((event) => event.key === bench.marking.nextEvent))
  const inRep = $derived.by(() => {
    const rep = bench.rep
    if (!rep) return ''
    const number = bench.numberOf(rep)
    const at = bench.player.shown - rep.first_frame + 1
    return at >= 1 && bench.player.shown <= rep.last_frame
      ? `${at} of ${rep.last_frame - rep.first_frame + 1} in rep ${number}`
      : `outside rep ${number}`
  })
  const real = $derived(bench.clip.real_s[bench.player.shown] ?? 0)

  let typing = $state(false)
  function goTo(event: Event): void {
    const typed = (event.currentTarget as HTMLInputElement).value.trim()
    if (/^\d+$/.test(typed)) bench.player.go(Number(typed))
    typing = false
  }
  $effect(() => {
    bench.strand.typeFrame = () => (typing = true)
  })
  // The strand follows the frame on screen when that leaves it.
  $effect(() => bench.strand.follow())
</script>

<div class="flex flex-wrap items-baseline gap-x-5 px-2 pt-1 pb-0.5 sm:px-0">
  {#if typing}
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="field num w-24 text-2xl"
      aria-label="Go to frame"
      inputmode="numeric"
      autofocus
      onchange={goTo}
      onblur={() => (typing = false)}
      onkeydown={(event) => event.key === 'Escape' && (typing = false)}
      placeholder={String(bench.player.shown)}
    />
    <span class="sr-only" data-testid="frame" aria-busy={bench.player.underWay}>{bench.player.shown}</span>
  {:else}
    <button
      class="num text-3xl font-semibold"
      data-testid="frame"
      aria-label="frame {bench.player.shown}"
      aria-busy={bench.player.underWay}
      title="Type a frame number (J)"
      onclick={() => (typing = true)}>{bench.player.shown}</button
    >
  {/if}
  <span
    class="num soft text-sm"
    data-testid="time"
    title={bench.player.highSpeed
      ? `Real time; ${clock(bench.clip.pts_s[bench.player.shown] ?? 0)} in the file`
      : 'Time in the clip'}>{clock(real)}{bench.player.highSpeed ? ' real' : ''} {inRep && `· ${inRep}`}</span
  >
  {#if next && bench.rep && bench.clip.has_film && !bench.finished}<span class="ml-auto self-start max-md:hidden"
      ><Neighbours {bench} /></span
    ><span class="soft text-sm max-md:hidden"><kbd>?</kbd> keys</span>
  {:else}<span class="soft ml-auto text-sm max-md:hidden"
      ><kbd>←</kbd> <kbd>→</kbd> frame &nbsp; <kbd>space</kbd>
      {bench.player.playing ? 'stops' : 'plays'} at {shownSpeed(bench.player.speed)}{bench.player.loop
        ? ', looping'
        : ''} &nbsp; <kbd>?</kbd> keys</span
    >{/if}
</div>
<!-- A finger has no keys: the frames one by one, and playing, as buttons. -->
<div class="flex items-center gap-2 px-2 pb-1 md:hidden">
  <button class="button" onclick={() => bench.player.step(-1)} aria-label="One frame back"
    ><ChevronLeft size={18} aria-hidden="true" /></button
  >
  <button class="button grow justify-center" onclick={() => bench.player.toggle()}
    >{bench.player.playing ? 'Stop' : 'Play'} at {shownSpeed(bench.player.speed)}</button
  >
  <button class="button" onclick={() => bench.player.cycleSpeed()}>Speed</button>
  <button class="button" onclick={() => bench.player.step(1)} aria-label="One frame on"
    ><ChevronRight size={18} aria-hidden="true" /></button
  >
</div>
<div bind:clientWidth={width} class="relative" style="height: {HEIGHT}px">
  {#if bench.clip.film}
    <div
      class="absolute overflow-hidden"
      style="left: 8px; top: {FILM.top}px; width: {width - 16}px; height: {FILM.height}px; background: var(--well)"
    >
      <Filmstrip
        clip={bench.clip.id}
        film={bench.clip.film}
        from={span.from}
        to={span.to}
        width={width - 16}
        height={FILM.height}
      />
    </div>
  {/if}
  <svg
    bind:this={svg}
    class="absolute inset-0 block w-full touch-none"
    height={HEIGHT}
    role="slider"
    aria-label="Frames"
    aria-valuemin={span.from}
    aria-valuemax={span.to}
    aria-valuenow={bench.player.shown}
    tabindex="-1"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
    onwheel={wheel}
  >
    {#snippet proposed()}
      {#each bench.cutting.proposals as { first, last }, i (i)}
        {@const band = clip(first, last)}
        {#if last >= span.from && first <= span.to}
          <g data-proposal={i} data-first={first} data-last={last}>
            <rect
              x={band.at}
              y="1"
              width={band.wide}
              height="18"
              fill="var(--page)"
              fill-opacity="0.5"
              stroke="var(--performer)"
              stroke-width={!bench.rep && i === bench.cutting.here ? 2 : 1}
              stroke-dasharray="5 3"
            />
            <rect x={x(first) - 2} y="1" width="4" height="18" fill="var(--performer)" style="cursor: ew-resize" />
            <rect x={x(last) - 2} y="1" width="4" height="18" fill="var(--performer)" style="cursor: ew-resize" />
            {#if band.wide > 46}<text x={band.at + 8} y="14" font-size="12" fill="var(--performer)">cut {i + 1}?</text
              >{/if}
          </g>
        {/if}
      {/each}
    {/snippet}
    {#if bench.rep}
      {#each phases as phase, i (phase.phase)}
        {@const band = clip(phase.from, phase.to)}
        <rect
          x={band.at}
          y="0"
          width={Math.max(band.wide - 2, 0)}
          height="20"
          fill={i % 2 ? 'var(--rule)' : 'var(--band)'}
        />
        {#if band.wide > 40}<text x={band.at + 5} y="14" font-size="12" font-weight="600" fill="var(--ink)"
            >{spoken(phase.phase)}</text
          >{/if}
      {/each}
      <!-- Cuts that are neither accepted nor dropped stay in sight. -->
      {@render proposed()}
    {:else}
      {#each bench.reps as rep, i (rep.id)}
        {@const band = clip(rep.first_frame, rep.last_frame)}
        <!-- Cuts of several pairs may overlap: every other one is set a little lower. -->
        <rect
          x={band.at}
          y={i % 2 ? 5 : 0}
          width={band.wide}
          height="15"
          fill={i % 2 ? 'var(--band)' : 'var(--rule)'}
          stroke="var(--soft)"
          stroke-width="0.5"
        />
        <text x={band.at + 5} y={i % 2 ? 17 : 12} font-size="12" font-weight="600" fill="var(--ink)">rep {i + 1}</text>
      {/each}
      {@render proposed()}
      {#if bench.cutting.draft.first_frame >= 0}<rect
          x={x(bench.cutting.draft.first_frame)}
          y="0"
          width="3"
          height="40"
          fill="var(--performer)"
        />{/if}
      {#if bench.cutting.draft.last_frame >= 0}<rect
          x={x(bench.cutting.draft.last_frame)}
          y="0"
          width="3"
          height="40"
          fill="var(--performer)"
        />{/if}
    {/if}
    {#if bench.strand.traces}<Traces
        traces={bench.strand.traces}
        pts={bench.clip.pts_s}
        {x}
        from={span.from}
        to={span.to}
        {width}
        top={TRACE_TOP}
        height={TRACE_HEIGHT}
      />{/if}
    <line x1="8" x2={width - 8} y1={RULER} y2={RULER} stroke="var(--soft)" />
    {#each ticks as tick (tick)}
      <line x1={x(tick)} x2={x(tick)} y1={RULER} y2={RULER + 6} stroke="var(--soft)" />
      <text x={x(tick) + 3} y={RULER + 13} font-size="10.5" class="num" fill="var(--soft)">{tick}</text>
    {/each}
    {#each pegs as peg (peg.key + peg.frame)}
      <line
        x1={peg.at}
        x2={peg.at}
        y1={FILM.top}
        y2={RULER + 28 + peg.row * 18}
        stroke="var(--performer)"
        stroke-width="1.5"
      />
    {/each}
    {#each pegs as peg (peg.key + peg.frame)}
      <text
        data-peg={peg.key}
        data-frame={peg.frame}
        stroke="var(--page)"
        stroke-width="4"
        paint-order="stroke"
        x={peg.left ? peg.at - 4 : peg.at + 4}
        y={RULER + 32 + peg.row * 18}
        text-anchor={peg.left ? 'end' : 'start'}
        font-size="12"
        fill="var(--performer)"
        ><title>{peg.number} {peg.name}, frame {peg.frame}</title>{#if peg.label !== 'none'}<tspan
            class="num"
            font-size="10.5">{peg.number}</tspan
          >{/if}{peg.label === 'full' ? ` ${peg.name}` : ''}</text
      >
    {/each}
    {#each bench.rep?.proposed ?? [] as proposal (proposal.event)}
      {#if within(proposal.frame)}<line
          data-proposed={proposal.event}
          data-frame={proposal.frame}
          x1={x(proposal.frame)}
          x2={x(proposal.frame)}
          y1={FILM.top}
          y2={RULER + 10}
          stroke="var(--performer)"
          stroke-width="1.5"
          stroke-dasharray="3 3"><title>{spoken(proposal.event)}? {proposal.why}</title></line
        >{/if}
    {/each}
    {#if within(bench.player.shown)}<line
        x1={x(bench.player.shown)}
        x2={x(bench.player.shown)}
        y1="0"
        y2={HEIGHT}
        stroke="var(--alarm)"
        stroke-width="2"
      />{/if}
  </svg>
</div>
{#if bench.curves.shown}<CurveBand {bench} {x} frameAt={frameAtX} from={span.from} to={span.to} {width} />{/if}
<GuideLine {bench} />
