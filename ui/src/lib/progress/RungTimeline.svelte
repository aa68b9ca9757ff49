<script lang="ts">
  import type { Schemas } from '../api/client'
  import { day, longDay, spoken } from '../parts/words'
  import { timeline } from './ledger'

  /** Rungs over time: on which a technique was filmed, and the steps that were decided. */
  let { standing }: { standing: Schemas['StandingOut'] } = $props()
  const WIDE = 620
  const LEFT = 110
  const ROW = 20
  const drawn = $derived(timeline(standing))
  const high = $derived(ROW * standing.ladder.length + 22)
  const x = (share: number) => LEFT + 8 + share * (WIDE - LEFT - 24)
  const y = (rung: number) => ROW * (standing.ladder.length - rung) - ROW / 2
</script>

{#if drawn}
  <svg
    class="mt-3 w-full max-w-3xl"
    viewBox="0 0 {WIDE} {high}"
    role="img"
    aria-label="Rungs over time: {drawn.words}"
    data-testid="rung-timeline"
  >
    {#each standing.ladder as rung, i (rung)}
      <line x1={LEFT} x2={WIDE - 8} y1={y(i)} y2={y(i)} stroke="var(--rule)" />
      <text
        x={LEFT - 8}
        y={y(i) + 4}
        text-anchor="end"
        font-size="11.5"
        fill={rung === standing.rung ? 'var(--ink)' : 'var(--soft)'}
        font-weight={rung === standing.rung ? 650 : 400}>{spoken(rung)}</text
      >
    {/each}
    {#if drawn.steps.length}<polyline
        points={drawn.steps.map(({ at, rung }) => `${x(at)},${y(rung)}`).join(' ')}
        fill="none"
        stroke="var(--performer)"
        stroke-width="2"
      />{/if}
    {#each drawn.sessions as one, i (i)}<circle
        cx={x(one.at)}
        cy={y(one.rung)}
        r={3 + Math.min(one.reps, 10) * 0.25}
        fill="var(--page)"
        stroke="var(--ink)"
        stroke-width="1.4"
        ><title>{longDay(one.on)}: {one.reps} reps, {spoken(standing.ladder[one.rung] ?? '')}</title></circle
      >{/each}
    {#each drawn.decisions as one, i (i)}<text
        x={x(one.at)}
        y={y(one.rung) - 6}
        text-anchor="middle"
        font-size="13"
        font-weight="700"
        fill={one.glyph === '↓' ? 'var(--alarm)' : 'var(--performer)'}
        ><title>{longDay(one.on)}: {one.words}</title>{one.glyph}</text
      >{/each}
    <text x={LEFT} y={high - 3} font-size="11" fill="var(--soft)">{day(drawn.first)}</text>
    <text x={WIDE - 8} y={high - 3} font-size="11" fill="var(--soft)" text-anchor="end">{day(drawn.last)}</text>
  </svg>
  <p class="soft text-xs">
    ○ filmed on that rung, larger for more reps; the line is the rung decided on: ↑ advance, = hold, ↓ step back.
  </p>
{/if}
