<script lang="ts">
  import { untrack } from 'svelte'
  import type { Schemas } from '../api/client'
  import type { Stage } from '../figure/stage'
  import type { Deck, Side } from './deck.svelte'
  import { limbsOf } from './skeleton'

  /** One side of a comparison: its film, or the studio's figure, at the moment of the common clock. */
  interface Props {
    deck: Deck
    side: Side
    figure?: Schemas['FigureOut'] | null | undefined
    /** Shown as a mirror shows it. */
    mirrored?: boolean
    skeleton?: boolean
    /** Laid over another picture: its skeleton is dashed. */
    over?: boolean
  }
  let { deck, side, figure = null, mirrored = false, skeleton = true, over = false }: Props = $props()
  let video = $state<HTMLVideoElement>()
  let canvas = $state<HTMLCanvasElement>()
  let stage = $state.raw<Stage>()
  let shown = $state(-1)
  let failed = $state(false)
  const frame = $derived(deck.playing && shown >= 0 ? shown : deck.frameOf(side))
  /** Laid over another picture it has colours of its own, and is dashed. */
  const marks = $derived(
    over
      ? { performer: '#ffb03b', partner: '#ff7d5c' }
      : { performer: 'var(--performer-mark)', partner: 'var(--partner-mark)' },
  )
  const drawn = $derived(
    // The studio's figure is drawn itself; laid over a film, its limbs alone are.
    (side.kind === 'studio' ? over : skeleton)
      ? side.skeletons.map((one) => ({ body: one.body, ...limbsOf(one, frame - side.first) }))
      : [],
  )

  // Taking a film over reads the clock, and must not be done again whenever that moves.
  $effect(() => {
    const [film, one] = [video, side]
    return film ? untrack(() => deck.attach(one, film, (next) => (shown = next))) : undefined
  })
  // The figure may come after the pane: it is drawn once both are there.
  $effect(() => {
    const [paper, shape] = [canvas, figure]
    if (!paper || !shape) return
    let gone = false
    let made: Stage | undefined
    void import('../figure/stage').then(({ Stage }) => {
      if (gone) return
      try {
        stage = made = new Stage(paper, [shape], { performer: '#3a5288', partner: '#c79a4b' }, '#ece6d8')
      } catch {
        failed = true
      }
    })
    return () => {
      gone = true
      made?.dispose()
      stage = undefined
    }
  })
  // The figure's own time begins with its rep.
  $effect(() => {
    const begun = side.real_s[(side.range[0] ?? side.first) - side.first] ?? 0
    const seconds = (side.real_s[deck.frameOf(side) - side.first] ?? 0) - begun
    stage?.draw([{ figure: 0, eye: { turn: 0, lift: 8 }, seconds: Math.max(0, seconds), pointed: null }])
  })
</script>

<div
  class="relative w-full overflow-hidden"
  style="aspect-ratio: {side.width} / {side.height}; background: {over ? 'none' : 'var(--well)'}; transform: {mirrored
    ? 'scaleX(-1)'
    : 'none'}"
  data-pane={side.key}
  data-frame={shown >= 0 ? shown : frame}
  data-wanted={deck.frameOf(side)}
>
  {#if side.kind === 'studio' && over}<span class="sr-only">{side.title}, its limbs</span>
  {:else if side.kind === 'studio'}
    <canvas bind:this={canvas} class="absolute inset-0 h-full w-full" aria-label={side.title}></canvas>
    {#if failed}<p class="notice bad absolute inset-x-2 top-2 text-sm">This browser cannot draw the figure.</p>{/if}
  {:else if side.has_film && !failed}
    <video
      bind:this={video}
      class="absolute inset-0 h-full w-full"
      src="/api/clips/{side.clip}/video"
      muted
      playsinline
      preload="auto"
      tabindex="-1"
      aria-label={side.title}
      onerror={() => (failed = true)}
    ></video>
  {:else}<span class="absolute top-1 left-2 text-xs" style="color: #cfcabd"
      >{failed ? 'the film cannot be shown' : 'no film is kept; what was measured'}</span
    >{/if}
  <svg
    class="pointer-events-none absolute inset-0 h-full w-full"
    viewBox="0 0 {side.width} {side.height}"
    aria-hidden="true"
  >
    {#each drawn as body (body.body)}
      {@const colour = body.body === 'partner' ? marks.partner : marks.performer}
      {#each body.limbs as limb (limb.key)}<line
          {...{ x1: limb.x1, y1: limb.y1, x2: limb.x2, y2: limb.y2 }}
          stroke={colour}
          stroke-width={side.height / (over ? 130 : 190)}
          stroke-linecap="round"
          stroke-dasharray={over ? `${side.height / 60} ${side.height / 80}` : null}
          opacity="0.9"
        />{/each}
      {#each body.joints as [x, y] (`${x} ${y}`)}<circle cx={x} cy={y} r={side.height / 150} fill={colour} />{/each}
    {/each}
  </svg>
</div>
