<script lang="ts">
  import { untrack } from 'svelte'
  import Rotate3d from '@lucide/svelte/icons/rotate-3d'
  import X from '@lucide/svelte/icons/x'
  import Shapes from '../../parts/Shapes.svelte'
  import { byTouch } from '../../parts/touch'
  import { shown as withUnit, spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import type { Place } from '../state/desk'
  import { openRing } from '../../player/ring'
  import { same } from '../state/points.svelte'
  import Measured from '../checkpoints/Measured.svelte'
  import Lens from './Lens.svelte'
  import Plan from './Plan.svelte'
  import SpaceFigure from './SpaceFigure.svelte'
  import TwoPictures from './TwoPictures.svelte'
  import type { Spot } from '../state/changes'
  import { KINDS } from '../state/corrections.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const width = $derived(bench.clip.width ?? 16)
  const height = $derived(bench.clip.height ?? 9)
  let svg = $state<SVGSVGElement>()
  let shownWidth = $state(0)
  const scale = $derived(shownWidth ? width / shownWidth / bench.zoom.factor : 1)
  $effect(() => void (bench.points.grain = scale))
  let video = $state<HTMLVideoElement>()
  let videoFailed = $state(false)

  // The player takes over the element as soon as it is on the page, and lets go of it when it leaves.
  $effect(() => {
    const element = video
    const { clip, player } = bench
    const letGo = clip.has_film
      ? element && player.attach(element, clip.pts_s, clip.real_s)
      : untrack(() => player.attachNothing(clip.pts_s, clip.real_s))
    return () => untrack(() => void letGo?.())
  })

  let cover = $state<HTMLCanvasElement>()
  // Pictures around the frame on screen are decoded beforehand, so that a step need not wait for a seek.
  $effect(() => {
    const canvas = cover
    if (!canvas || !bench.clip.has_film) return
    let end: () => void = () => undefined
    let left = false
    const { player, clip } = bench
    openRing(`/api/clips/${clip.id}/video`, clip.pts_s, (frame) => player.came(frame)).then(
      (opened) => {
        if (!opened) return
        if (left) return opened.close()
        const uncover = untrack(() => player.cover(canvas, opened.ring))
        end = () => untrack(() => (uncover(), opened.close()))
      },
      // A browser that cannot decode it steps by seeking, as before.
      // A browser that cannot decode it steps by seeking, as before.
      () => undefined,
    )
    return () => {
      left = true
      end()
    }
  })

  /** The places clicked so far for a mark; a line by hand is shown as it is drawn. */
  const clicked = $derived(
    bench.corrections.placing?.kind === 'freehand' ? [] : (bench.corrections.placing?.spots ?? []),
  )

  const marks = { performer: 'var(--performer-mark)', partner: 'var(--partner-mark)' }

  /** The limbs that the current checkpoint reads, as placed on this frame. */
  const line = $derived.by(() => {
    if (bench.checkpoint?.kind !== 'angle') return []
    const found = bench.points.needs.map((need) => bench.points.shown.find((p) => need.spot && same(p, need.spot)))
    return found.length === 3 && found.every((p) => p !== undefined) ? found : []
  })
  const arc = $derived.by(() => {
    const [a, v, b] = line
    if (!a || !v || !b) return null
    const reach = 0.42 * Math.min(Math.hypot(a.x - v.x, a.y - v.y), Math.hypot(b.x - v.x, b.y - v.y))
    const at = (p: { x: number; y: number }) => {
      const far = Math.hypot(p.x - v.x, p.y - v.y) || 1
      return { x: v.x + ((p.x - v.x) / far) * reach, y: v.y + ((p.y - v.y) / far) * reach }
    }
    const [p, q] = [at(a), at(b)]
    const sweep = (p.x - v.x) * (q.y - v.y) - (p.y - v.y) * (q.x - v.x) > 0 ? 1 : 0
    const mx = (p.x + q.x) / 2 - v.x
    const my = (p.y + q.y) / 2 - v.y
    const out = Math.hypot(mx, my) || 1
    return {
      path: `M${p.x} ${p.y}A${reach} ${reach} 0 0 ${sweep} ${q.x} ${q.y}`,
      x: v.x + (mx / out) * (reach + 34 * scale),
      y: v.y + (my / out) * (reach + 34 * scale),
    }
  })
  const value = $derived(bench.judgement?.value ?? null)
  /** The two limbs of an angle, each with its lean out of the picture where that is flagged, degrees. */
  const limbs = $derived.by(() => {
    const [a, v, b] = line
    if (!a || !v || !b) return []
    const told = [...(bench.judgement?.notes ?? []), bench.judgement?.reason ?? ''].join('; ')
    const leans = [...told.matchAll(/([a-z ]+) leans (\d+)° out of the picture/g)]
    return [a, b].map((end) => {
      const name = limbName(end.landmark, v.landmark)
      return {
        from: v,
        to: end,
        leans: leans.find(([, segment]) => name !== null && segment?.trim().endsWith(name))?.[2] ?? null,
      }
    })
  })

  /** What the limb between two landmarks is called, as the judge calls it. */
  function limbName(one: string, other: string): string | null {
    const names: Record<string, string> = {
      'ankle knee': 'shank',
      'hip knee': 'thigh',
      'elbow shoulder': 'upper arm',
      'elbow wrist': 'forearm',
      'hip shoulder': 'trunk',
      'heel toe': 'foot',
    }
    const [side, joint] = one.split('_')
    const name = names[[joint ?? '', other.split('_')[1] ?? ''].sort().join(' ')]
    return name === undefined ? null : name === 'trunk' ? name : `${side} ${name}`
  }

  function place(event: PointerEvent): Place {
    const box = svg?.getBoundingClientRect()
    if (!box) return { x: 0, y: 0 }
    const x = ((event.clientX - box.left) / box.width) * width
    const y = ((event.clientY - box.top) / box.height) * height
    return { x: Math.max(0, Math.min(width, x)), y: Math.max(0, Math.min(height, y)) }
  }

  function near(at: Place): Spot | null {
    const found = bench.points.shown
      .map((point) => ({ point, off: Math.hypot(point.x - at.x, point.y - at.y) }))
      .filter(({ off }) => off < 12 * scale)
      .sort((a, b) => a.off - b.off)[0]?.point
    return found ? { body: found.body, landmark: found.landmark, frame: found.frame } : null
  }

  let held: Spot | null = null
  /** Where the pointer took hold of the picture itself, in screen pixels. */
  let panned: Place | null = null
  let frame = $state<HTMLDivElement>()

  /** Zoom with the wheel about the pointer. */
  function wheel(event: WheelEvent): void {
    event.preventDefault()
    const box = frame?.getBoundingClientRect()
    if (box)
      bench.zoom.by(event.deltaY > 0 ? 0.8 : 1.25, {
        x: (event.clientX - box.left) / box.width,
        y: (event.clientY - box.top) / box.height,
      })
  }
  function down(event: PointerEvent): void {
    if (event.button === 1 || (event.button === 0 && event.shiftKey)) {
      event.preventDefault()
      panned = { x: event.clientX, y: event.clientY }
      return svg?.setPointerCapture(event.pointerId)
    }
    if (event.button !== 0 || bench.player.playing) return
    const at = place(event)
    svg?.setPointerCapture(event.pointerId)
    if (bench.tool === 'height') return bench.reference.markHeight(at)
    if (bench.tool === 'collect') return bench.reference.collectSpot(at)
    if (bench.tool === 'mark' && bench.corrections.placing?.kind === 'freehand')
      return bench.corrections.trace(at, 4 * scale)
    if (bench.tool === 'mark') return bench.corrections.spot(at)
    const handle = bench.corrections.handles.find((one) => Math.hypot(one.x - at.x, one.y - at.y) < 12 * scale)
    if (handle) return void (bench.corrections.moving = { mark: handle.mark, spot: handle.spot, place: at })
    const { asked } = bench.points
    // A click places what is asked for, also on top of another; others are taken with a key held, or from the list.
    if (bench.tool === 'points' && asked?.frame === bench.player.shown && !event.ctrlKey && !event.metaKey) {
      bench.points.selected = held = asked
      bench.points.picked = bench.points.cross = null
      return drag(held, at)
    }
    held = bench.finished ? null : near(at)
    bench.points.selected = held
    if (held) drag(held, at)
    else if (bench.tool === 'look') panned = { x: event.clientX, y: event.clientY }
  }
  /** Where the pointer is over the picture, for the lens. */
  let hover = $state<Place | null>(null)
  function drag(spot: Spot, at: Place): void {
    bench.points.dragging = { spot, place: at }
    if (bench.rep) bench.live.ask(bench.rep.id, spot, at.x, at.y)
  }
  function move(event: PointerEvent): void {
    if (panned) {
      const box = frame?.getBoundingClientRect()
      if (box) bench.zoom.pan((event.clientX - panned.x) / box.width, (event.clientY - panned.y) / box.height)
      panned = { x: event.clientX, y: event.clientY }
      return
    }
    const at = place(event)
    hover = at
    if (event.buttons & 1 && bench.corrections.placing?.kind === 'freehand')
      return bench.corrections.trace(at, 4 * scale)
    if (bench.corrections.moving) bench.corrections.moving = { ...bench.corrections.moving, place: at }
    else if (held) drag(held, at)
  }
  function up(event: PointerEvent): void {
    if (panned) return void (panned = null)
    if (bench.corrections.placing?.kind === 'freehand') return bench.corrections.endTrace()
    if (bench.corrections.moving) return bench.corrections.drop()
    if (held) bench.points.place(held, place(event))
    held = null
  }

  /** The line under the picture says the same; on a phone the hint would lie over the legs. */
  const touched = byTouch()
  const hint = $derived.by(() => {
    if (bench.tool === 'height')
      return bench.reference.heightFrom
        ? 'Now click the sole of the foot'
        : `Click the crown of the ${bench.reference.heightBody}’s head, standing straight`
    if (bench.tool === 'collect')
      return `Click ${bench.reference.collecting?.asking[bench.reference.collecting.spots.length] ?? ''}`
    const placing = bench.corrections.placing
    if (placing) return `Click ${KINDS[placing.kind].asking[placing.spots.length] ?? ''}`
    if (bench.tool !== 'points') return ''
    const asked = bench.points.asked
    if (!asked)
      return bench.points.needs.length
        ? bench.points.needs.some((n) => !n.spot)
          ? 'Enough is placed on this frame: K tracks the body from here'
          : 'All points of this checkpoint are placed: drag to move, Esc to end'
        : 'This checkpoint reads no points'
    if (asked.frame !== bench.player.shown) return `Go to frame ${asked.frame} to place ${spoken(asked.landmark)} (G)`
    const seeding = !bench.points.needs.some((n) => n.spot) && !bench.points.picked
    return `Click the ${asked.body}’s ${spoken(asked.landmark)}${seeding ? '; a handful is enough, then K tracks the body' : ''}`
  })
</script>

<TwoPictures {bench} ratio={width / height}>
  <div bind:this={frame} class="relative h-full w-full overflow-hidden" bind:clientWidth={shownWidth} onwheel={wheel}>
    <div class="absolute inset-0" style="transform: {bench.zoom.css}; transform-origin: 0 0" data-testid="zoomed">
      {#if bench.clip.has_film}
        <video
          bind:this={video}
          class="absolute inset-0 h-full w-full"
          src="/api/clips/{bench.clip.id}/video"
          preload="auto"
          muted
          playsinline
          aria-label="Clip, frame {bench.player.shown}"
          onerror={() => (videoFailed = true)}
        ></video>
        <canvas
          bind:this={cover}
          class="absolute inset-0 h-full w-full"
          style:visibility={bench.player.covered ? 'visible' : 'hidden'}
          aria-hidden="true"
        ></canvas>
      {:else}
        <p class="absolute inset-x-0 top-0 p-3 text-center text-sm" style="color: #c9cdc8">
          The video of this clip is not stored here. Its marks, points and verdicts are.
        </p>
      {/if}
      <svg
        bind:this={svg}
        class="absolute inset-0 h-full w-full touch-none"
        class:aim={bench.tool !== 'look'}
        viewBox="0 0 {width} {height}"
        role="application"
        aria-label="Picture: {hint || 'points of both bodies'}"
        onpointerdown={down}
        onpointermove={move}
        onpointerup={up}
        onpointerleave={() => (hover = null)}
      >
        {#each limbs as limb, i (i)}
          <line
            x1={limb.from.x}
            y1={limb.from.y}
            x2={limb.to.x}
            y2={limb.to.y}
            stroke="#ffffff"
            stroke-opacity="0.85"
            stroke-width={1.6 * scale}
            stroke-dasharray={limb.leans ? `${6 * scale} ${5 * scale}` : null}
          />
          {#if limb.leans}<text
              x={(limb.from.x + limb.to.x) / 2 + 10 * scale}
              y={(limb.from.y + limb.to.y) / 2}
              fill="#fff"
              stroke="#14181a"
              stroke-width={3.5 * scale}
              paint-order="stroke"
              font-size={13 * scale}
              class="num">leans {limb.leans}°</text
            >{/if}
        {/each}
        {#if arc}
          <path d={arc.path} fill="none" stroke="#ffffff" stroke-width={2.4 * scale} />
          {#if value !== null && (!bench.points.dragging || bench.live.judgements)}
            <g transform="translate({arc.x} {arc.y}) scale({scale})">
              <rect x="-30" y="-13" width="60" height="26" fill="#14181a" fill-opacity="0.85" />
              <text text-anchor="middle" dy="6" fill="#fff" class="num" font-size="17" font-weight="600"
                >{withUnit(value, bench.judgement?.unit ?? null)}</text
              >
            </g>
          {/if}
        {/if}
        {#if bench.checkpoint?.kind !== 'angle'}<Measured {bench} {scale} />{/if}
        {#each bench.points.shown as point (point.body + point.landmark)}
          {@const picked = bench.points.selected !== null && same(bench.points.selected, point)}
          <g data-point="{point.body}.{point.landmark}" transform="translate({point.x} {point.y}) scale({scale})">
            {#if point.by === 'tracked'}
              <!-- Carried, not placed: a small square, as large as it is unsure at least. -->
              {@const half = Math.max(4, Math.min(14, (point.sigma ?? 0) / scale))}
              <rect
                x={-half}
                y={-half}
                width={2 * half}
                height={2 * half}
                fill="none"
                stroke="#14181a"
                stroke-width="3"
              />
              <rect
                x={-half}
                y={-half}
                width={2 * half}
                height={2 * half}
                fill="none"
                stroke={marks[point.body]}
                stroke-width="1.3"
              />
            {:else}
              <circle
                r={picked ? 9 : 6}
                fill={marks[point.body]}
                fill-opacity={point.hidden ? 0 : 0.25}
                stroke="#14181a"
                stroke-width="3.4"
              />
              <circle
                r={picked ? 9 : 6}
                fill="none"
                stroke={marks[point.body]}
                stroke-width="1.8"
                stroke-dasharray={point.hidden ? '3 3' : null}
              />
            {/if}
            <circle r="1.4" fill="#fff" />
            {#if picked}
              <text x="14" y="5" fill="#fff" stroke="#14181a" stroke-width="3" paint-order="stroke" font-size="13"
                >{spoken(point.landmark)}</text
              >
            {/if}
          </g>
        {/each}
        {#each bench.corrections.shown as { correction, shapes } (correction.id)}
          <Shapes
            {shapes}
            {width}
            {height}
            faint={bench.corrections.openId !== null && correction.id !== bench.corrections.openId}
          />
        {/each}
        {#each bench.corrections.handles as handle (`${handle.mark}.${handle.spot}`)}
          <rect
            data-handle="{handle.mark}.{handle.spot}"
            x={handle.x - 6 * scale}
            y={handle.y - 6 * scale}
            width={12 * scale}
            height={12 * scale}
            fill="#ff8a66"
            fill-opacity={handle.held ? 0.9 : 0.35}
            stroke="#14181a"
            stroke-width={1.5 * scale}
          />
        {/each}
        {#if bench.corrections.placing?.kind === 'freehand'}<polyline
            points={bench.corrections.placing.spots.map((spot) => `${spot.x},${spot.y}`).join(' ')}
            fill="none"
            stroke="#ffc861"
            stroke-width={3 * scale}
          />{/if}
        {#each clicked as spot, i (i)}<circle
            cx={spot.x}
            cy={spot.y}
            r={6 * scale}
            fill="none"
            stroke="#ff8a66"
            stroke-width={2 * scale}
          />{/each}
        {#each bench.reference.collecting?.spots ?? [] as spot, i (i)}<circle
            cx={spot.x}
            cy={spot.y}
            r={6 * scale}
            fill="none"
            stroke="#fff"
            stroke-width={2 * scale}
          />{/each}
        {#if bench.points.cross}
          {@const { x, y } = bench.points.cross}
          <g data-testid="cross" stroke="#fff" stroke-width={1.6 * scale} fill="none">
            <path
              d="M{x - 26 * scale} {y}h{20 * scale}m{12 * scale} 0h{20 * scale}M{x} {y - 26 * scale}v{20 *
                scale}m0 {12 * scale}v{20 * scale}"
              stroke="#14181a"
              stroke-width={4 * scale}
            />
            <path
              d="M{x - 26 * scale} {y}h{20 * scale}m{12 * scale} 0h{20 * scale}M{x} {y - 26 * scale}v{20 *
                scale}m0 {12 * scale}v{20 * scale}"
            />
          </g>
        {/if}
        {#if bench.reference.heightFrom}<circle
            cx={bench.reference.heightFrom.x}
            cy={bench.reference.heightFrom.y}
            r={6 * scale}
            fill="none"
            stroke="#fff"
            stroke-width={2 * scale}
          />{/if}
      </svg>
    </div>
    {#if bench.zoom.factor > 1}<button class="num zoomed" onclick={() => bench.zoom.reset()} title="Whole picture (0)"
        >{bench.zoom.factor.toFixed(1)}×</button
      >{/if}
    {#if bench.points.cross && video}<Lens
        {video}
        {width}
        {height}
        at={bench.points.cross}
        frame={bench.player.shown}
      />{:else if hover && video && (bench.points.dragging || bench.tool === 'points' || bench.tool === 'collect' || bench.tool === 'height' || bench.tool === 'mark')}<Lens
        {video}
        {width}
        {height}
        at={bench.points.dragging?.place ?? hover}
        frame={bench.player.shown}
      />{/if}
    <div class="corner">
      {#if bench.mat.asked || bench.checkpoint?.kind === 'floor'}<Plan {bench} />{/if}
      {#if bench.space.asked}<SpaceFigure {bench} />{/if}
      {#if bench.rep}
        <button
          class="turn"
          title={bench.space.asked ? 'Close (X)' : 'The bodies in space, and the mat from above (X)'}
          aria-pressed={bench.space.asked}
          aria-label="The bodies in space, and the mat from above"
          onclick={(event) => {
            bench.mat.asked = bench.space.asked = !bench.space.asked
            event.currentTarget.blur()
          }}
          >{#if bench.space.asked}<X size={16} />{:else}<Rotate3d size={16} />{/if}</button
        >
      {/if}
    </div>
    {#if hint && !touched}<p class="hint" role="status">{hint}</p>{/if}
    {#if videoFailed}<p class="hint" role="alert">
        The video cannot be played here. Reload the page; the clip itself is kept.
      </p>{/if}
  </div>
</TwoPictures>

<style>
  .aim {
    cursor: crosshair;
  }
  .corner {
    position: absolute;
    left: 8px;
    bottom: 8px;
    display: flex;
    flex-direction: row-reverse;
    align-items: flex-end;
    gap: 6px;
    pointer-events: none;
  }
  .turn {
    pointer-events: auto;
    padding: 0.3rem;
    background: rgb(20 24 26 / 0.85);
    color: #fff;
    cursor: pointer;
  }
  .zoomed {
    position: absolute;
    right: 8px;
    top: 8px;
    padding: 0.1rem 0.5rem;
    background: rgb(20 24 26 / 0.85);
    color: #fff;
    font-size: 0.85rem;
  }
  .hint {
    position: absolute;
    left: 50%;
    bottom: 10px;
    transform: translateX(-50%);
    max-width: 92%;
    padding: 0.2rem 0.7rem;
    background: rgb(20 24 26 / 0.88);
    color: #fff;
    font-size: 0.9rem;
    pointer-events: none;
  }
</style>
