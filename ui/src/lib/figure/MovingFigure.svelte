<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause'
  import Play from '@lucide/svelte/icons/play'
  import StepBack from '@lucide/svelte/icons/step-back'
  import StepForward from '@lucide/svelte/icons/step-forward'
  import { onMount, untrack } from 'svelte'
  import Segments from '../parts/Segments.svelte'
  import { spoken } from '../parts/words'
  import { frameAt, joins, lengthOf, stepped, type Figure } from './motion'
  import type { Eye, Pointed, Stage } from './stage'

  type From = 'side' | 'front' | 'behind' | 'above'
  interface Pane {
    figure: Figure
    title: string
    /** Under the picture: what is measured there. */
    note?: string
    missed?: boolean
  }
  interface Props {
    /** One figure is shown from two sides, two are shown side by side and stop together at `event`. */
    panes: [Pane, ...Pane[]]
    view?: From
    /** A checkpoint whose points are pointed out where it is read. */
    checkpoint?: string
    kind?: string
    label: string
    /** Told whenever another instant is shown, seconds of the first figure's rep. */
    moved?: (seconds: number) => void
  }
  let { panes, view = 'side', checkpoint = '', kind = '', label, moved }: Props = $props()

  const EYES: Record<From, Eye> = {
    side: { turn: 0, lift: 8 },
    front: { turn: 90, lift: 8 },
    behind: { turn: -90, lift: 8 },
    above: { turn: 0, lift: 72 },
  }
  const SPEEDS = [
    ['1', 'full'],
    ['0.5', 'half'],
    ['0.25', 'quarter'],
  ] as const

  let canvas: HTMLCanvasElement | undefined = $state()
  let stage: Stage | undefined = $state()
  let failure = $state('')
  let playing = $state(false)
  let speed: '1' | '0.5' | '0.25' = $state('0.5')
  let from: From = $state(untrack(() => view))
  let turned = $state(0)

  const pair = $derived(panes.length > 1)
  const readAt = (figure: Figure) => figure.checkpoints.find((one) => one.id === checkpoint)
  // Two reps run together so that what is read happens at the same moment in both.
  const zeroOf = (figure: Figure) => (pair ? (readAt(figure)?.time_s ?? 0) : 0)
  const start = $derived(-Math.max(...panes.map(({ figure }) => zeroOf(figure))))
  const end = $derived(Math.max(...panes.map(({ figure }) => lengthOf(figure) - zeroOf(figure))))
  let now = $state(untrack(() => first()))
  /** The time of a figure's own rep. */
  const own = (figure: Figure, clock: number) => Math.max(0, Math.min(clock + zeroOf(figure), lengthOf(figure)))

  /** Where it opens: at what is read, else at the instant in the middle of the technique. */
  function first(): number {
    if (panes.length > 1) return 0
    const { figure } = panes[0]
    const events = Object.values(figure.events_s).sort((a, b) => a - b)
    return readAt(figure)?.time_s ?? events[Math.floor(events.length / 2)] ?? 0
  }

  onMount(() => {
    let gone = false
    const style = getComputedStyle(document.documentElement)
    const colour = (name: string, other: string) => style.getPropertyValue(name).trim() || other
    void import('./stage').then(({ Stage }) => {
      if (gone || !canvas) return
      try {
        stage = new Stage(
          canvas,
          panes.map(({ figure }) => figure),
          { performer: '#3a5288', partner: '#c79a4b' },
          colour('--band', '#ece6d8'),
        )
      } catch {
        failure = 'This browser cannot draw the figure: it has no 3D graphics, or they are switched off.'
      }
    })
    return () => {
      gone = true
      stage?.dispose()
    }
  })

  function pointedAt({ figure, missed = false }: Pane, seconds: number): Pointed | null {
    const read = readAt(figure)
    if (!read || read.time_s === null || !read.places.length) return null
    if (frameAt(figure, seconds) !== frameAt(figure, read.time_s)) return null
    const places = read.places.map((place) => place.at)
    return { places, joined: joins(kind, places.length), missed }
  }

  function draw(): void {
    const eye = { turn: EYES[from].turn + turned, lift: EYES[from].lift }
    const seen = panes.map((pane, i) => {
      const seconds = own(pane.figure, now)
      return { figure: i, eye, seconds, pointed: pointedAt(pane, seconds) }
    })
    const other = { turn: eye.turn + (from === 'front' ? -90 : 90), lift: EYES.side.lift }
    const again = pair || narrow ? [] : seen.map((one) => ({ ...one, eye: other }))
    stage?.draw([...seen, ...again])
  }
  let narrow = $state(false)
  $effect(() => {
    if (!canvas) return
    const watch = new ResizeObserver(() => {
      narrow = (canvas?.clientWidth ?? 0) < 480
      draw()
    })
    watch.observe(canvas)
    return () => watch.disconnect()
  })
  $effect(draw)

  $effect(() => {
    if (!playing) return
    let last = performance.now()
    let asked = requestAnimationFrame(function go(at) {
      const next = now + ((at - last) / 1000) * Number(speed)
      // A breath at the end before it begins again.
      now = next > end + 0.4 * Number(speed) ? start : next
      last = at
      asked = requestAnimationFrame(go)
    })
    return () => cancelAnimationFrame(asked)
  })

  function play(): void {
    if (!playing && now >= end) now = start
    playing = !playing
  }
  function step(by: 1 | -1): void {
    playing = false
    now = stepped(panes[0].figure, own(panes[0].figure, Math.min(now, end)), by) - zeroOf(panes[0].figure)
  }
  /** Show an instant, seconds on the common clock. */
  export function goTo(seconds: number): void {
    playing = false
    now = seconds
  }
  function keys(event: KeyboardEvent): void {
    if (event.key === 'ArrowRight') step(1)
    else if (event.key === 'ArrowLeft') step(-1)
    else if (event.key === ' ') play()
    else return
    event.preventDefault()
  }
  let held: { x: number; turned: number } | null = null
  const events = $derived(pair ? [] : Object.entries(panes[0].figure.events_s).sort(([, a], [, b]) => a - b))
  const shown = $derived(own(panes[0].figure, now))
  $effect(() => moved?.(shown))
</script>

<figure class="moving" aria-label={label}>
  {#if pair}
    <div class="beside">
      {#each panes as pane, i (i)}<span class="title" class:missed={pane.missed}>{pane.title}</span>{/each}
    </div>
  {/if}
  <div class="picture" class:pair={pair || !narrow} class:narrow>
    <canvas
      bind:this={canvas}
      tabindex="0"
      aria-label="{label}. Space plays, the arrow keys step, dragging turns it."
      data-testid="figure"
      data-ready={stage ? 'yes' : 'no'}
      data-at={shown.toFixed(3)}
      onkeydown={keys}
      onpointerdown={(event) => {
        held = { x: event.clientX, turned }
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onpointermove={(event) => {
        if (held) turned = held.turned - (event.clientX - held.x) * 0.5
      }}
      onpointerup={() => (held = null)}
      onpointercancel={() => (held = null)}
    ></canvas>
    {#if failure}<p class="notice bad text-sm" role="alert">{failure}</p>{/if}
  </div>
  {#if panes.some((pane) => pane.note)}
    <div class="beside">
      {#each panes as pane, i (i)}<span class="note num" class:missed={pane.missed}>{pane.note}</span>{/each}
    </div>
  {/if}
  <input
    type="range"
    aria-label="Time"
    min={start}
    max={end}
    step="0.01"
    value={Math.min(now, end)}
    oninput={(event) => goTo(Number(event.currentTarget.value))}
  />
  <div class="controls">
    <button class="icon" aria-label="One frame back" onclick={() => step(-1)}><StepBack size={18} /></button>
    <button class="icon main" aria-label={playing ? 'Pause' : 'Play'} onclick={play}>
      {#if playing}<Pause size={18} />{:else}<Play size={18} />{/if}
    </button>
    <button class="icon" aria-label="One frame on" onclick={() => step(1)}><StepForward size={18} /></button>
    <span class="soft text-sm">Speed</span>
    <Segments label="Speed" choices={SPEEDS} value={speed} changed={(next) => (speed = next)} />
    <span class="soft text-sm">Seen from</span>
    <Segments
      label="Seen from"
      choices={[
        ['side', 'side'],
        ['front', 'front'],
        ['behind', 'behind'],
        ['above', 'above'],
      ]}
      value={from}
      changed={(next) => {
        from = next
        turned = 0
      }}
    />
    {#if pair}<button class="pick" onclick={() => goTo(0)}>Back to where it is read</button>{/if}
  </div>
  {#if events.length}
    <div class="controls" role="group" aria-label="Events">
      {#each events as [name, at] (name)}
        <button class="pick" aria-pressed={!playing && Math.abs(at - shown) < 0.017} onclick={() => goTo(at)}
          >{spoken(name)}</button
        >
      {/each}
    </div>
  {/if}
</figure>

<style>
  .moving {
    display: grid;
    gap: 0.4rem;
    margin: 0;
  }
  .picture {
    position: relative;
    border: 1px solid var(--rule);
  }
  canvas {
    display: block;
    width: 100%;
    aspect-ratio: 4 / 3;
    touch-action: pan-y;
    cursor: grab;
  }
  .pair canvas {
    aspect-ratio: 2.3;
  }
  .pair.narrow canvas {
    aspect-ratio: 1.5;
  }
  .beside {
    display: grid;
    grid-auto-columns: 1fr;
    grid-auto-flow: column;
    gap: 0.6rem;
    align-items: end;
    font-size: 0.85rem;
  }
  .title {
    font-weight: 600;
  }
  .missed {
    color: var(--alarm);
  }
  input[type='range'] {
    width: 100%;
  }
  .controls {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.4rem 0.6rem;
  }
  .icon {
    display: inline-grid;
    place-items: center;
    width: 2.2rem;
    height: 2.2rem;
    border: 1px solid var(--soft);
    cursor: pointer;
  }
  .icon.main {
    background: var(--performer);
    border-color: var(--performer);
    color: var(--page);
  }
  @media print {
    .controls,
    input {
      display: none;
    }
  }
</style>
