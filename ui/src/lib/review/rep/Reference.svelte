<script lang="ts">
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
    /** Puts the card away, so that the picture can be clicked. */
    away: () => void
  }
  let { bench, away }: Props = $props()
  const known = $derived(
    bench.review.reference as { upright?: { deg: number }; centimetres_per_pixel?: number; floor?: unknown[] },
  )
  let length = $state('')
  let tile = $state('')
  const metres = (text: string) => Number(text.trim().replace(',', '.'))
  const sizes = $derived(tile.split(/[×x*]/).map(metres))
  const tileFits = $derived(sizes.length === 2 && sizes.every((size) => size > 0 && size < 50))

  function vertical(): void {
    away()
    bench.reference.gather(
      ['a low spot of something upright, such as a door frame', 'a spot higher up on it'],
      ([low, high]) => {
        if (!low || !high) return
        // How far the picture's true vertical is turned clockwise.
        const deg = (Math.atan2(high.x - low.x, low.y - high.y) * 180) / Math.PI
        bench.reference.set('upright', { deg: Math.round(deg * 100) / 100, u: 0.5 })
      },
    )
  }
  function scale(): void {
    const cm = metres(length)
    if (!(cm > 0)) return
    away()
    bench.reference.gather(['one end of the known length, as far away as the athletes', 'its other end'], ([a, b]) => {
      const px = a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0
      if (px > 0) bench.reference.set('centimetres_per_pixel', cm / px)
    })
  }
  function floor(): void {
    const [along = 0, across = 0] = sizes
    away()
    const corners = [
      [0, 0],
      [along, 0],
      [along, across],
      [0, across],
    ] as const
    bench.reference.gather(
      [
        'the tile’s near corner, away from the target',
        'its near corner on the target’s side',
        'its far corner on the target’s side',
        'its far corner, away from the target',
      ],
      (spots) =>
        bench.reference.set(
          'floor',
          spots.map((spot, i) => ({ ...spot, X: corners[i]?.[0] ?? 0, Y: corners[i]?.[1] ?? 0 })),
        ),
    )
  }
</script>

<h3 class="mt-5 font-semibold">Frame of reference</h3>
<ul class="text-sm" aria-label="Frame of reference">
  <li class="rule-b flex flex-wrap items-center gap-3 py-1.5">
    <span class="w-40">Vertical</span>
    <span class="num soft flex-1"
      >{known.upright ? `turned by ${known.upright.deg.toFixed(1)}°, ±0.5°` : 'taken as the picture’s, ±2°'}</span
    >
    {#if !bench.finished}<button class="button" onclick={vertical}>Mark a door frame</button>{/if}
    {#if known.upright && !bench.finished}<button class="underline" onclick={() => bench.reference.set('upright', null)}
        >clear</button
      >{/if}
  </li>
  <li class="rule-b flex flex-wrap items-center gap-3 py-1.5">
    <span class="w-40">Known length</span>
    <span class="num soft flex-1"
      >{known.centimetres_per_pixel
        ? `${known.centimetres_per_pixel.toFixed(3)} cm a pixel`
        : 'none: lengths are shown in body units'}</span
    >
    {#if !bench.finished}<input
        class="field num w-20"
        inputmode="decimal"
        placeholder="cm"
        aria-label="Known length, cm"
        bind:value={length}
      /><button class="button" disabled={!(metres(length) > 0)} onclick={scale}>Mark its ends</button>{/if}
    {#if known.centimetres_per_pixel && !bench.finished}<button
        class="underline"
        onclick={() => bench.reference.set('centimetres_per_pixel', null)}>clear</button
      >{/if}
  </li>
  <li class="rule-b flex flex-wrap items-center gap-3 py-1.5">
    <span class="w-40">Mat</span>
    <span class="soft flex-1">{known.floor ? 'measured out: steps can be shown in metres' : 'not measured out'}</span>
    {#if !bench.finished}<input
        class="field num w-24"
        placeholder="1 × 2 m"
        aria-label="Tile, metres along × across"
        bind:value={tile}
      /><button class="button" disabled={!tileFits} onclick={floor}>Mark a tile’s corners</button>{/if}
    {#if known.floor && !bench.finished}<button class="underline" onclick={() => bench.reference.set('floor', null)}
        >clear</button
      >{/if}
  </li>
  {#each ['performer', 'partner'] as const as body (body)}
    {@const still = bench.reference.stillFrame(body)}
    {#if body === 'performer' || bench.rep?.partner === 'person'}
      <li class="rule-b flex flex-wrap items-center gap-3 py-1.5">
        <span class="w-40">The {body}’s limbs</span>
        <span class="soft flex-1"
          >{still === null ? 'as long as the clip shows them, or lean unknown' : `read off frame ${still}`}</span
        >
        {#if bench.rep && !bench.finished}<button
            class="button"
            onclick={() => bench.reference.readLengths(body, bench.player.shown)}
            >Square in frame {bench.player.shown}</button
          >{/if}
        {#if still !== null && !bench.finished}<button
            class="underline"
            onclick={() => bench.reference.readLengths(body, null)}>clear</button
          >{/if}
      </li>
    {/if}
  {/each}
</ul>
