<script lang="ts">
  import { Axis, Chart, Layer } from 'layerchart'
  import { LINES, shapeAt, spanOf, type Series } from './shapes'

  /** Up to four lines over time, each value with its interval: by colour, dash and shape. What is drawn is told in a table that
   * can be opened below it. */
  interface Props {
    series: readonly Series[]
    /** What the picture shows, for those who do not see it. */
    label: string
    /** The words of a tick of the upright axis. */
    format: (value: number) => string
    /** Ticks of the upright axis, which goes from the first to the last. */
    ticks: readonly number[]
    /** The words of a day. */
    dayWords: (day: Date) => string
    caption: string
    /** Days without a point after which a line is broken: nothing is known there. */
    gapDays: number
    testid?: string
  }
  let { series, label, format, ticks, dayWords, caption, gapDays, testid }: Props = $props()
  const lines = $derived(series.slice(0, LINES.length))
  const span = $derived(spanOf(lines))
  const all = $derived(lines.flatMap((one) => one.points))
  const days = $derived([...new Set(all.map((one) => one.on.getTime()))].sort((a, b) => a - b))
  const breaks = (before: Date | undefined, on: Date) =>
    !before || on.getTime() - before.getTime() > gapDays * 86_400_000
  /** Points of two lines on one day lie side by side. */
  const shift = (i: number) => (i - (lines.length - 1) / 2) * 5
</script>

{#if span}
  <figure class="mt-2 max-w-3xl" data-testid={testid}>
    <figcaption class="soft text-xs">{caption}</figcaption>
    {#if lines.length > 1}<ul class="mt-1 flex flex-wrap gap-x-5 gap-y-1 text-sm" aria-hidden="true">
        {#each lines as line, i (line.name)}<li class="flex items-center gap-1.5">
            <svg width="34" height="12"
              ><line
                x1="0"
                x2="34"
                y1="6"
                y2="6"
                stroke={LINES[i]?.colour}
                stroke-width="2"
                stroke-dasharray={LINES[i]?.dash}
              /><path d={shapeAt(i, 17, 6)} fill={LINES[i]?.colour} /></svg
            >{line.name}
          </li>{/each}
      </ul>{/if}
    <div class="h-48" role="img" aria-label={label}>
      <Chart
        data={all}
        x="on"
        xDomain={span}
        y="value"
        yDomain={[ticks[0] ?? 0, ticks.at(-1) ?? 1]}
        padding={{ left: 48, right: 18, top: 12, bottom: 24 }}
      >
        {#snippet children({ context })}
          <Layer type="svg">
            <Axis placement="left" ticks={[...ticks]} {format} grid />
            <Axis placement="bottom" ticks={Math.min(6, Math.max(days.length, 2))} format={dayWords} />
            {#each lines as line, i (line.name)}
              {@const colour = LINES[i]?.colour}
              {@const places = line.points.map((point) => ({
                ...point,
                x: context.xScale(point.on) + shift(i),
                y: context.yScale(point.value),
              }))}
              <g data-line={line.name}>
                {#each places as one (one.on.getTime())}<line
                    x1={one.x}
                    x2={one.x}
                    y1={context.yScale(one.low)}
                    y2={context.yScale(one.high)}
                    stroke={colour}
                    stroke-opacity="0.45"
                    stroke-width="2"
                  />{/each}
                <path
                  d={places
                    .map((one, n) => `${breaks(places[n - 1]?.on, one.on) ? 'M' : 'L'}${one.x} ${one.y}`)
                    .join('')}
                  fill="none"
                  stroke={colour}
                  stroke-width="2"
                  stroke-dasharray={LINES[i]?.dash}
                />
                {#each places as one (one.on.getTime())}<path
                    d={shapeAt(i, one.x, one.y)}
                    fill={colour}
                    stroke="var(--page)"
                    ><title>{lines.length > 1 ? `${line.name}, ` : ''}{dayWords(one.on)}: {one.words}</title></path
                  >{/each}
              </g>
            {/each}
          </Layer>
        {/snippet}
      </Chart>
    </div>
    <details class="text-sm">
      <summary class="soft cursor-pointer text-xs">The same as a table</summary>
      <div class="overflow-x-auto">
        <table class="mt-1" aria-label={label}>
          <thead
            ><tr class="rule-b soft text-left text-xs"
              ><th class="py-1 pr-4 font-normal"></th>{#each lines as line (line.name)}<th
                  class="pr-4 font-normal"
                  scope="col">{line.name}</th
                >{/each}</tr
            ></thead
          >
          <tbody
            >{#each days as time (time)}<tr class="rule-b"
                ><th class="py-1 pr-4 text-left font-normal" scope="row">{dayWords(new Date(time))}</th
                >{#each lines as line (line.name)}<td class="num pr-4"
                    >{line.points.find((one) => one.on.getTime() === time)?.words ?? ''}</td
                  >{/each}</tr
              >{/each}</tbody
          >
        </table>
      </div>
    </details>
  </figure>
{/if}
