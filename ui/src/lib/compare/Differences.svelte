<script lang="ts">
  import type { Schemas } from '../api/client'
  import Glyph from '../parts/Glyph.svelte'
  import { shown, shownWith, spoken } from '../parts/words'

  /** Every checkpoint's value in each side, what differs from the first, and when each event came. */
  interface Props {
    data: Schemas['ComparisonOut']
    /** Names of the sides that were judged, the leading one first. */
    names: readonly string[]
    checkpoint: string | null
    choose: (id: string) => void
  }
  let { data, names, checkpoint, choose }: Props = $props()
  let all = $state(false)
  const told = (one: Schemas['ComparedDifferenceOut'], unit: string | null) =>
    `${one.value > 0 ? '+' : ''}${shownWith(one.value, one.u, unit)}`
  const differs = (row: Schemas['ComparedRowOut']) => row.differences.some((one) => one?.is_real)
  const rows = $derived(all ? data.rows : data.rows.filter((row) => differs(row) || row.id === checkpoint))
  const late = (one: Schemas['ComparedDifferenceOut']) =>
    told({ ...one, value: 1000 * one.value, u: 1000 * one.u }, 'ms')
</script>

<div class="overflow-x-auto">
  <table class="w-full text-sm" data-testid="differences">
    <caption class="pb-1 text-left"
      ><b class="font-semibold">What differs</b>
      <span class="soft"
        >from “{names[0]}”; bold is real: beyond 1.645 times its uncertainty. {data.rows.filter(differs).length} of {data
          .rows.length} differ.</span
      >
      <button class="underline" onclick={() => (all = !all)}>{all ? 'only what differs' : 'all checkpoints'}</button
      ></caption
    >
    <thead
      ><tr class="soft text-left" style="border-bottom: 2px solid var(--ink)"
        ><th class="pr-3 font-normal">Checkpoint</th>{#each names as name, i (i)}<th class="pr-3 font-normal">{name}</th
          >{/each}</tr
      ></thead
    >
    <tbody>
      {#each rows as row (row.id)}
        <tr class="rule-b align-top" class:chosen={row.id === checkpoint} data-row={row.id}>
          <th class="py-1.5 pr-3 text-left font-normal"
            ><button class="text-left underline" onclick={() => choose(row.id)}>{row.ask}</button></th
          >
          {#each names as _, i (i)}
            {@const value = row.values[i]}
            {@const difference = row.differences[i]}
            <td class="py-1.5 pr-3 whitespace-nowrap"
              >{#if value}<span class="inline-block"><Glyph verdict={value.verdict} size={12} /></span>
                <span class="num"
                  >{value.value == null || !value.unit
                    ? spoken(value.verdict)
                    : shownWith(value.value, value.uncertainty ?? 0, value.unit)}</span
                >
                {#if difference}<span class="num block" class:real={difference.is_real} class:soft={!difference.is_real}
                    >{told(difference, value.unit)}{difference.is_real ? '' : ', too near to say'}</span
                  >{/if}{:else}<span class="soft">not asked</span>{/if}</td
            >
          {/each}
        </tr>
      {/each}
      {#if rows.length === 0}<tr
          ><td class="soft py-2" colspan={names.length + 1}>Nothing differs by more than it is unsure.</td></tr
        >{/if}
    </tbody>
  </table>
  <table class="mt-4 w-full text-sm" data-testid="timing">
    <caption class="pb-1 text-left"
      ><b class="font-semibold">When</b>
      <span class="soft">from “{spoken(data.anchor)}”, and as a share of the rep</span></caption
    >
    <thead
      ><tr class="soft text-left" style="border-bottom: 2px solid var(--ink)"
        ><th class="pr-3 font-normal">Event</th>{#each names as name, i (i)}<th class="pr-3 font-normal">{name}</th
          >{/each}</tr
      ></thead
    >
    <tbody>
      {#each data.timing as row (row.event)}
        <tr class="rule-b align-top" data-event={row.event}>
          <th class="py-1.5 pr-3 text-left font-normal"
            >{spoken(row.event)} <span class="soft">{spoken(row.phase)}</span></th
          >
          {#each names as _, i (i)}
            {@const at = row.at_s[i]}
            {@const difference = row.differences[i]}
            <td class="py-1.5 pr-3 whitespace-nowrap"
              >{#if at}<span class="num">{shown(1000 * (at[0] ?? 0), 'ms')}</span>
                <span class="soft num">{Math.round(100 * (row.shares[i] ?? 0))} %</span>
                {#if difference && row.event !== data.anchor}<span
                    class="num block"
                    class:real={difference.is_real}
                    class:soft={!difference.is_real}
                    >{late(difference)}{difference.is_real ? '' : ', too near to say'}</span
                  >{/if}{:else}<span class="soft">not marked</span>{/if}</td
            >
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .real {
    font-weight: 700;
  }
  .chosen {
    background: var(--band);
  }
</style>
