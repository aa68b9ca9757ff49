<script lang="ts">
  import { bandPath, linePath, scaleOf, ticksOf, type Value } from './curve'
  import type { Deck } from './deck.svelte'
  import { shown as withUnit } from '../parts/words'
  import { DASHES, LINES } from './colours'

  /** The chosen checkpoint's quantity of all sides on the common clock. */
  interface Props {
    deck: Deck
    names: readonly string[]
    label: string
    svg?: SVGSVGElement | undefined
  }
  let { deck, names, label, svg = $bindable() }: Props = $props()
  let width = $state(800)
  const HEIGHT = 130
  const first = $derived(deck.sides.find((side) => side.curves.length)?.curves[0])
  const x = (time: number) => 8 + ((time - deck.from) / Math.max(deck.to - deck.from, 1e-6)) * (width - 16)
  function* seen(): Iterable<Value> {
    for (const side of deck.sides) yield* side.curves[0]?.values ?? []
    yield first?.low
    yield first?.high
  }
  const scale = $derived(scaleOf(seen(), first?.unit === 'deg' ? 10 : 0.05))
  const y = (value: number) => 8 + (1 - (value - scale.low) / (scale.high - scale.low)) * (HEIGHT - 16)
  const drawn = $derived(
    deck.sides.flatMap((side, number) => {
      const curve = side.curves[0]
      if (!curve || curve.unit !== first?.unit) return []
      const times = deck.times(side)
      const at = (i: number) => times[curve.first + i - side.first]
      const edge = (sign: number) =>
        curve.values.map((value, i) => {
          const [time, u] = [at(i), curve.u[i]]
          return value == null || time === undefined ? null : { x: x(time), y: y(value + sign * (u ?? 0)) }
        })
      return [{ number, line: linePath(edge(0)), band: bandPath(edge(1), edge(-1)) }]
    }),
  )
  function go(event: PointerEvent): void {
    if (event.type === 'pointermove' && !(event.buttons & 1)) return
    const left = svg?.getBoundingClientRect().left ?? 0
    deck.go(deck.from + ((event.clientX - left - 8) / (width - 16)) * (deck.to - deck.from))
  }
</script>

{#if first && drawn.length}
  <div bind:clientWidth={width} data-testid="compared-curves">
    <p class="flex flex-wrap items-baseline gap-x-4 text-sm">
      <b class="font-semibold">{first.name}</b>
      {#each drawn as one (one.number)}<span class="inline-flex items-center gap-1.5"
          ><svg width="26" height="6" aria-hidden="true"
            ><line
              x1="0"
              x2="26"
              y1="3"
              y2="3"
              stroke={LINES[one.number]}
              stroke-width="2.5"
              stroke-dasharray={DASHES[one.number]}
            /></svg
          >{names[one.number]}</span
        >{/each}
    </p>
    <svg
      bind:this={svg}
      {width}
      height={HEIGHT}
      class="block touch-none"
      role="img"
      aria-label={label}
      onpointerdown={go}
      onpointermove={go}
    >
      {#if first.low != null || first.high != null}<rect
          x="8"
          y={y(first.high ?? scale.high)}
          width={width - 16}
          height={Math.max(0, y(first.low ?? scale.low) - y(first.high ?? scale.high))}
          fill="var(--met)"
          fill-opacity="0.13"><title>wanted</title></rect
        >{/if}
      {#each ticksOf(scale, 3) as tick (tick)}
        <line x1="8" x2={width - 8} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
        <text x="10" y={y(tick) - 2} font-size="10.5" class="num" fill="var(--soft)"
          >{withUnit(tick, first.unit ?? '')}</text
        >
      {/each}
      {#each drawn as one (one.number)}
        <path d={one.band} fill={LINES[one.number]} fill-opacity="0.13" />
        <path
          d={one.line}
          fill="none"
          stroke={LINES[one.number]}
          stroke-width="2"
          stroke-dasharray={DASHES[one.number]}
          data-curve={one.number}
        />
      {/each}
      <line x1={x(0)} x2={x(0)} y1="0" y2={HEIGHT} stroke="var(--ink)" stroke-dasharray="2 3" />
      <line x1={x(deck.now)} x2={x(deck.now)} y1="0" y2={HEIGHT} stroke="var(--alarm)" stroke-width="2" />
    </svg>
  </div>
{/if}
