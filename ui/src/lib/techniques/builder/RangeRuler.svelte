<script lang="ts">
  import { Slider } from '@skeletonlabs/skeleton-svelte'
  import type { Form } from './forms'

  interface Props {
    range: NonNullable<Form['wanted']>
    within: readonly [number | null, number | null]
    /** What the figure comes to. */
    value: number | null
    /** And how sure that is, from one view. */
    u: number
    changed: (within: [number | null, number | null]) => void
  }
  /** A wanted range on a ruler: a limit that stands at the end of the ruler is no limit. */
  let { range, within, value, u, changed }: Props = $props()
  const shown = (one: number) => Number((one * range.times).toFixed(2))
  const ends = $derived([within[0] ?? range.least, within[1] ?? range.most])
  const share = (one: number) => Math.max(0, Math.min(1, (one - range.least) / (range.most - range.least)))
  const told = $derived(
    [within[0] === null ? '' : `from ${shown(within[0])}`, within[1] === null ? '' : `up to ${shown(within[1])}`]
      .filter(Boolean)
      .join(' ') || 'anything',
  )
  const rounded = (one: number) => Math.round(one / range.step) * range.step
  const round = (one: number) => Number(one.toFixed(4))
  function drag([lo = range.least, hi = range.most]: number[]): void {
    changed([lo <= range.least ? null : round(lo), hi >= range.most ? null : round(hi)])
  }
  function typed(at: 0 | 1, text: string): void {
    const number = text.trim() === '' ? null : Number(text.replace(',', '.')) / range.times
    if (number !== null && !Number.isFinite(number)) return
    changed(at === 0 ? [number, within[1]] : [within[0], number])
  }
</script>

<div data-testid="ruler" data-value={value ?? ''}>
  <Slider
    value={ends}
    min={range.least}
    max={range.most}
    step={range.step}
    onValueChange={(details) => drag(details.value)}
    aria-label={['Lowest', 'Highest']}
  >
    <Slider.Control class="ruler">
      <Slider.Track class="ruler-track"><Slider.Range class="ruler-range" /></Slider.Track>
      <Slider.Thumb index={0} class="ruler-thumb"><Slider.HiddenInput /></Slider.Thumb>
      <Slider.Thumb index={1} class="ruler-thumb"><Slider.HiddenInput /></Slider.Thumb>
      {#if value !== null}<span class="here" style:left="{share(value) * 100}%" aria-hidden="true"></span>{/if}
    </Slider.Control>
  </Slider>
  <p class="mt-1 flex flex-wrap items-center gap-2 text-sm">
    at least
    <input
      class="field num w-20"
      aria-label="At least"
      inputmode="decimal"
      placeholder="any"
      value={within[0] === null ? '' : shown(within[0])}
      onchange={(event) => typed(0, event.currentTarget.value)}
    />
    at most
    <input
      class="field num w-20"
      aria-label="At most"
      inputmode="decimal"
      placeholder="any"
      value={within[1] === null ? '' : shown(within[1])}
      onchange={(event) => typed(1, event.currentTarget.value)}
    />
    {range.unit}
    <span class="soft"
      >({told}{#if value !== null}; the figure shows {shown(rounded(value))} ±{shown(rounded(u))}{/if})</span
    >
  </p>
</div>

<style>
  div :global(.ruler) {
    position: relative;
    display: flex;
    align-items: center;
    height: 1.8rem;
  }
  div :global(.ruler-track) {
    flex: 1;
    height: 0.4rem;
    background: var(--rule);
  }
  div :global(.ruler-range) {
    height: 100%;
    background: var(--met);
  }
  div :global(.ruler-thumb) {
    width: 1.5rem;
    height: 1.5rem;
    border: 2px solid var(--page);
    border-radius: 50%;
    background: var(--met);
    cursor: grab;
  }
  div :global(.ruler-thumb:focus-visible) {
    outline: 2px solid var(--performer);
  }
  .here {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 3px;
    margin-left: -1.5px;
    background: var(--ink);
    pointer-events: none;
  }
</style>
