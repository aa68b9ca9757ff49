<script lang="ts">
  import type { Schemas } from '../../api/client'
  import { bandPath, linePath, placeIn, scaleOf, ticksOf, type Value } from '../../compare/curve'
  import Segments from '../../parts/Segments.svelte'
  import { shown as withUnit, spoken } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  /** The checkpoint's quantity over the rep, under the strand and on its frames: the value with ±u, the wanted range, where it
   * was read, events, and the other reps of the set faintly behind, locked on the event. */
  interface Props {
    bench: Bench
    /** Where a frame lies, pixels. */
    x: (frame: number) => number
    frameAt: (x: number) => number
    from: number
    to: number
    width: number
  }
  let { bench, x, frameAt, from, to, width }: Props = $props()
  const HEIGHT = 108
  const PAD = 8
  const data = $derived(bench.curves.found)
  const own = $derived(data?.reps.find((one) => one.rep === bench.repId))
  const curve = $derived(own?.curves[bench.curves.chosen] ?? own?.curves[0])
  const spread = $derived(data?.spread[bench.curves.chosen])
  const behind = $derived(
    (data?.reps ?? [])
      .filter((one) => one.rep !== bench.repId)
      .flatMap((one) => {
        const other = one.curves[bench.curves.chosen]
        return other ? [{ ...one, values: other.values }] : []
      }),
  )
  const inside = (frame: number) => frame >= from && frame <= to
  const judged = $derived(bench.judgement?.unit === curve?.unit ? bench.judgement : null)

  function* seen(): Iterable<Value> {
    if (!curve) return
    for (const [i, value] of curve.values.entries()) {
      if (value == null || !inside(curve.first + i)) continue
      yield value - (curve.u[i] ?? 0)
      yield value + (curve.u[i] ?? 0)
    }
    for (const rep of behind) yield* rep.values
    yield curve.low
    yield curve.high
  }
  const scale = $derived(scaleOf(seen(), curve?.unit === 'deg' ? 10 : 0.05))
  const y = (value: number) => PAD + (1 - (value - scale.low) / (scale.high - scale.low)) * (HEIGHT - 2 * PAD)
  const place = (frame: number, value: Value) => (value == null ? null : { x: x(frame), y: y(value) })
  const line = $derived(curve ? linePath(curve.values.map((value, i) => place(curve.first + i, value))) : '')
  const band = $derived.by(() => {
    if (!curve) return ''
    const edge = (sign: 1 | -1) =>
      curve.values.map((value, i) => {
        const u = curve.u[i]
        return value == null || u == null ? null : place(curve.first + i, value + sign * u)
      })
    return bandPath(edge(1), edge(-1))
  })
  const spreadBand = $derived.by(() => {
    if (!curve || !spread) return ''
    const edge = (sign: 1 | -1) =>
      spread.mean.map((mean, i) => {
        const by = spread.deviation[i]
        return mean == null || by == null ? null : place(curve.first + i, mean + sign * by)
      })
    return bandPath(edge(1), edge(-1))
  })
  /** Another rep on this one's frames: locked on the event, in real time. */
  function other(rep: (typeof behind)[number]): string {
    return linePath(
      rep.clock_s.map((time, i) => {
        const at = own ? placeIn(own.clock_s, time) : null
        return at === null || !own ? null : place(own.first + at, rep.values[i])
      }),
    )
  }
  const ribbon = $derived(
    curve && (curve.low != null || curve.high != null)
      ? { top: y(curve.high ?? scale.high), bottom: y(curve.low ?? scale.low) }
      : null,
  )
  const events = $derived(
    Object.entries(bench.rep?.events ?? {}).flatMap(([name, frames]) =>
      frames.filter(inside).map((frame) => ({ name, frame })),
    ),
  )
  const now = $derived.by(() => {
    const value = curve?.values[bench.player.shown - curve.first]
    const u = curve?.u[bench.player.shown - (curve?.first ?? 0)]
    if (value == null || !curve) return 'not known in this frame'
    return `${withUnit(value, curve.unit ?? '')}${u == null ? '' : ` ± ${withUnit(u, curve.unit ?? '')}`}`
  })
  const choices = $derived((own?.curves ?? []).map((one, i) => [String(i), one.name] as const))
  let svg = $state<SVGSVGElement>()
  function go(event: PointerEvent): void {
    if (event.type === 'pointermove' && !(event.buttons & 1)) return
    if (event.type === 'pointerdown') svg?.setPointerCapture(event.pointerId)
    bench.player.go(frameAt(event.clientX - (svg?.getBoundingClientRect().left ?? 0)))
  }
  function saveAs(kind: 'csv' | 'png'): void {
    void import('../../compare/save').then(({ curvesCsv, savePicture, saveText }) => {
      const name = `${bench.checkpoint?.id ?? 'curve'}-${bench.clip.name.replace(/\.[^.]*$/, '')}`
      if (kind === 'csv' && data) saveText(`${name}.csv`, curvesCsv(data, bench.curves.chosen), 'text/csv')
      else if (svg) void savePicture(`${name}.png`, svg)
    })
  }
  const verdictOf = (read: Schemas['JudgementOut'] | null) => (read?.value == null ? null : read.value)
</script>

<div data-testid="curve">
  {#if bench.curves.failure}<p class="soft text-sm" role="alert">{bench.curves.failure}</p>
  {:else if data?.why_none}<p class="soft py-1 text-sm" data-testid="no-curve">No curve: {data.why_none}.</p>
  {:else if curve && own}
    <div class="flex items-baseline gap-3 text-sm">
      {#if choices.length > 1}<Segments
          label="Which quantity"
          {choices}
          value={String(bench.curves.chosen)}
          changed={(next) => (bench.curves.chosen = Number(next))}
        />{:else}<b class="font-semibold">{curve.name}</b>{/if}
      <span class="num" data-testid="curve-now">{now}</span>
      <span class="soft"
        >band ±u{ribbon ? ', green is wanted' : ''}{behind.length
          ? `; faint: ${behind.length} other ${behind.length === 1 ? 'rep' : 'reps'}, together at ${spoken(data?.event ?? '')}`
          : ''}</span
      >
      <span class="ml-auto flex gap-2 whitespace-nowrap"
        ><button class="underline" onclick={() => saveAs('csv')}>CSV</button><button
          class="underline"
          onclick={() => saveAs('png')}>PNG</button
        ></span
      >
    </div>
    <svg
      bind:this={svg}
      {width}
      height={HEIGHT}
      class="block touch-none"
      role="img"
      aria-label="{curve.name} over the rep. Now {now}."
      onpointerdown={go}
      onpointermove={go}
    >
      {#if ribbon}<rect
          data-part="wanted"
          x={x(curve.first)}
          y={Math.min(ribbon.top, ribbon.bottom)}
          width={Math.max(0, x(curve.first + curve.values.length - 1) - x(curve.first))}
          height={Math.abs(ribbon.bottom - ribbon.top)}
          fill="var(--met)"
          fill-opacity="0.14"
        />{/if}
      {#each ticksOf(scale, 3) as tick (tick)}
        <line x1="8" x2={width - 8} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
        <text x="10" y={y(tick) - 2} font-size="10.5" class="num" fill="var(--soft)"
          >{withUnit(tick, curve.unit ?? '')}</text
        >
      {/each}
      {#each events as event (event.name + event.frame)}<line
          x1={x(event.frame)}
          x2={x(event.frame)}
          y1="0"
          y2={HEIGHT}
          stroke="var(--performer)"
          stroke-opacity="0.5"><title>{spoken(event.name)}</title></line
        >{/each}
      {#if spreadBand}<path d={spreadBand} fill="var(--soft)" fill-opacity="0.16" data-part="spread"
          ><title>mean ± standard deviation of the set</title></path
        >{/if}
      {#each behind as rep (rep.rep)}<path
          d={other(rep)}
          fill="none"
          stroke="var(--soft)"
          stroke-opacity="0.55"
          data-part="other"
        />{/each}
      <path d={band} fill="var(--performer)" fill-opacity="0.2" data-part="band" />
      <path d={line} fill="none" stroke="var(--performer)" stroke-width="2" data-part="line" />
      {#each own.read_at.filter(inside) as frame (frame)}
        {@const value = verdictOf(judged) ?? curve.values[frame - curve.first]}
        {#if value != null}<circle
            cx={x(frame)}
            cy={y(value)}
            r="5"
            fill="var(--page)"
            stroke="var(--performer)"
            stroke-width="2"
            data-part="read"><title>read here: {withUnit(value, curve.unit ?? '')}</title></circle
          >{/if}
      {/each}
      {#if inside(bench.player.shown)}<line
          x1={x(bench.player.shown)}
          x2={x(bench.player.shown)}
          y1="0"
          y2={HEIGHT}
          stroke="var(--alarm)"
          stroke-width="2"
        />{/if}
    </svg>
  {:else}<p class="soft py-1 text-sm">Working the curve out…</p>{/if}
</div>
