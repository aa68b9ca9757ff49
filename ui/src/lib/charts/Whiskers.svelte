<script lang="ts">
  import { Axis, Chart, Layer } from 'layerchart'

  export interface Row {
    name: string
    value: number
    low: number
    high: number
    words: string
  }
  /** Values with their intervals below one another on one scale, so that what differs is seen; the numbers stand in a table or
   * list beside it. */
  interface Props {
    rows: readonly Row[]
    label: string
    /** Least and greatest of the scale. */
    from: number
    to: number
    ticks: readonly number[]
    format: (value: number) => string
    testid?: string
  }
  let { rows, label, from, to, ticks, format, testid }: Props = $props()
  const ROW_PX = 26
  const data = $derived(rows.map((row, i) => ({ ...row, i })))
</script>

{#if rows.length}
  <div
    class="grid max-w-2xl items-start gap-x-3 text-sm"
    style="grid-template-columns: minmax(6rem, auto) minmax(0, 1fr)"
    data-testid={testid}
  >
    <ul aria-hidden="true">
      {#each rows as row (row.name)}<li class="truncate" style="height: {ROW_PX}px; line-height: {ROW_PX}px">
          {row.name}
        </li>{/each}
    </ul>
    <!-- A longer name makes the chart narrower, and the chart draws itself anew a moment later: until then it is cut off, or the
      whole page of a phone would be as wide as the old one. -->
    <div
      class="overflow-x-clip"
      style="height: {rows.length * ROW_PX + 24}px"
      role="img"
      aria-label="{label}: {rows.map((row) => `${row.name} ${row.words}`).join('; ')}"
    >
      <Chart
        {data}
        x="value"
        xDomain={[from, to]}
        y="i"
        yDomain={[rows.length - 0.5, -0.5]}
        padding={{ left: 16, right: 22, top: 0, bottom: 24 }}
      >
        {#snippet children({ context })}
          <Layer type="svg">
            <Axis placement="bottom" ticks={[...ticks]} {format} grid />
            {#each data as row (row.name)}
              {@const y = context.yScale(row.i)}
              <line
                x1={context.xScale(row.low)}
                x2={context.xScale(row.high)}
                y1={y}
                y2={y}
                stroke="var(--performer)"
                stroke-opacity="0.55"
                stroke-width="3"
              />
              <circle cx={context.xScale(row.value)} cy={y} r="5" fill="var(--performer)" stroke="var(--page)"
                ><title>{row.name}: {row.words}</title></circle
              >
            {/each}
          </Layer>
        {/snippet}
      </Chart>
    </div>
  </div>
{/if}
