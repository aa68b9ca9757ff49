<script lang="ts">
  import { Axis, Chart, Layer, Spline } from 'layerchart'
  import type { Schemas } from '../api/client'
  import { day, spoken } from '../parts/words'
  import { between, share } from '../progress/ledger'

  /** How often a fault was missed over time: the rate of each block with its interval, and what was done about it. The table of
   * sessions beside it tells the same in numbers. */
  interface Props {
    blocks: readonly Schemas['BlockOut'][]
    marks: readonly Schemas['MarkOut'][]
    label: string
  }
  let { blocks, marks, label }: Props = $props()
  const data = $derived(blocks.map((one) => ({ ...one, day: new Date(one.on) })))
  const first = $derived(data[0]?.day ?? new Date())
  const done = $derived(marks.map((one) => ({ ...one, day: new Date(one.on) })).filter((one) => one.day >= first))
  const days = $derived([...data, ...done].map((one) => one.day.getTime()))
  const span = $derived.by(() => {
    const [from, to] = [Math.min(...days), Math.max(...days)]
    const room = 0.02 * (to - from)
    return [new Date(from - room), new Date(to + room)]
  })
  /** Words stand where there is room: what was done for the fault before cues, of which there are many. */
  const named = $derived.by(() => {
    const width = Math.max(1, (span[1]?.getTime() ?? 1) - (span[0]?.getTime() ?? 0))
    const taken: [number, number][] = []
    const order = [...done].sort((a, b) => Number(a.kind === 'cue') - Number(b.kind === 'cue'))
    return new Set(
      order.filter((mark) => {
        const from = (mark.day.getTime() - (span[0]?.getTime() ?? 0)) / width
        const to = from + mark.words.length * 0.0105
        if (to > 1.02 || taken.some(([a, b]) => from < b + 0.01 && a < to + 0.01)) return false
        taken.push([from, to])
        return true
      }),
    )
  })
  const isoOf = (value: Date) => value.toISOString().slice(0, 10)
  const MARKS = { drill: 'drill', rung: 'rung', cue: 'cue' } as const
  const DASHES = { drill: '5 4', rung: '2 3', cue: '1 5' } as const
  const TINTS = { drill: 'var(--met)', rung: 'var(--partner)', cue: 'var(--soft)' } as const
</script>

{#if data.length > 1}
  <figure class="mt-3 max-w-3xl">
    <figcaption class="soft text-xs">
      Missed, by joined sessions, with 95 % intervals; upright lines: a drill was prescribed (dashed), the rung changed
      (short dashes), a cue was given (dots).
    </figcaption>
    <div
      class="h-44"
      role="img"
      aria-label="{label}: {data.map((one) => `${day(one.on)} ${share(one.rate)}`).join(', ')}"
    >
      <Chart
        {data}
        x="day"
        xDomain={span}
        y="rate"
        yDomain={[0, 1]}
        padding={{ left: 44, right: 16, top: 18, bottom: 22 }}
      >
        {#snippet children({ context })}
          <Layer type="svg">
            <Axis
              placement="left"
              ticks={[0, 0.5, 1]}
              format={(value: number) => `${Math.round(100 * value)} %`}
              grid
            />
            <Axis placement="bottom" ticks={Math.min(6, data.length)} format={(value: Date) => day(isoOf(value))} />
            {#each done as mark (mark.on + mark.kind + mark.words)}
              {@const x = context.xScale(mark.day)}
              <line
                x1={x}
                x2={x}
                y1="0"
                y2={context.height}
                stroke={TINTS[mark.kind]}
                stroke-dasharray={DASHES[mark.kind]}
                ><title>{MARKS[mark.kind]}: {mark.words}, {day(mark.on)}</title></line
              >
              {#if named.has(mark)}<text x={x + 3} y="-5" font-size="11" fill="var(--soft)">{mark.words}</text>{/if}
            {/each}
            {#each data as one (one.on)}
              {@const x = context.xScale(one.day)}
              <line
                x1={x}
                x2={x}
                y1={context.yScale(one.interval[0] ?? 0)}
                y2={context.yScale(one.interval[1] ?? 1)}
                stroke="var(--performer)"
                stroke-opacity="0.45"
                stroke-width="2"
              />
            {/each}
            <Spline stroke="var(--performer)" strokeWidth={2} />
            {#each data as one (one.on)}
              {@const [x, y] = [context.xScale(one.day), context.yScale(one.rate)]}
              {@const title = `${day(one.on)}: ${one.misses} of ${one.exposures}, ${share(one.rate)} (${between(one.interval)}), ${spoken(one.state)}`}
              {#if one.state === 'recurring' || one.state === 'relapsed'}<path
                  d="M{x} {y - 6}l6 10h-12z"
                  fill="var(--alarm)"><title>{title}</title></path
                >{:else if one.state === 'cleared' || one.state === 'clean'}<circle
                  cx={x}
                  cy={y}
                  r="4.5"
                  fill="var(--page)"
                  stroke="var(--met)"
                  stroke-width="2.5"><title>{title}</title></circle
                >{:else}<circle cx={x} cy={y} r="4.5" fill="var(--performer)"><title>{title}</title></circle>{/if}
            {/each}
          </Layer>
        {/snippet}
      </Chart>
    </div>
  </figure>
{/if}
