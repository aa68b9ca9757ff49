<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause'
  import Play from '@lucide/svelte/icons/play'
  import StepBack from '@lucide/svelte/icons/step-back'
  import StepForward from '@lucide/svelte/icons/step-forward'
  import X from '@lucide/svelte/icons/x'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { untrack } from 'svelte'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import Curves from '../lib/compare/Curves.svelte'
  import Differences from '../lib/compare/Differences.svelte'
  import { Deck, SPEEDS, type Side } from '../lib/compare/deck.svelte'
  import Films from '../lib/compare/Films.svelte'
  import Pane from '../lib/compare/Pane.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import { tell } from '../lib/parts/told'
  import { longDay, shownWith, spoken } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'

  /** Two to four reps beside one another, locked on an event: stepping and playing together whatever their frame rates. */
  let { params }: { params: { lead: string } } = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const deck = new Deck()
  let keys = $state<string[]>([])
  let anchor = $state<string | null>(null)
  let checkpoint = $state<string | null>(null)
  /** What the address asks for beside the leading rep; another address may be of the same rep. */
  function read(): void {
    const query = new URLSearchParams(location.hash.split('?')[1] ?? '')
    keys = query.getAll('side').slice(0, 3)
    anchor = query.get('anchor')
    checkpoint = query.get('checkpoint')
  }
  read()
  let layout = $state<'beside' | 'over' | 'wipe'>('beside')
  let through = $state(0.5)
  let mirrored = $state(false)
  let skeleton = $state(true)
  let picking = $state(false)
  let filming = $state(false)
  let board = $state<HTMLElement>()
  let curves = $state<SVGSVGElement>()
  const lead = $derived(params.lead)
  const rep = $derived(lead.startsWith('rep.') ? lead.slice(4) : '')

  const offered = createQuery(() => ({
    queryKey: ['comparable', rep],
    queryFn: () => unwrap(client.GET('/api/reps/{rep_id}/comparable', { params: { path: { rep_id: rep } } })),
    enabled: rep !== '',
  }))
  // Opened without another side, the most telling one is put beside it.
  $effect(() => {
    const first = offered.data?.find((one) => one.has_film || one.why === 'studio')
    if (!keys.length && first) keys = [first.key]
  })
  const found = createQuery(() => ({
    queryKey: ['compare', lead, ...keys, anchor ?? '', checkpoint ?? ''],
    queryFn: () =>
      unwrap(
        client.GET('/api/compare', {
          params: { query: { side: [lead, ...keys], anchor, checkpoint } },
        }),
      ),
    enabled: keys.length > 0,
    placeholderData: (before: Schemas['ComparisonOut'] | undefined) => before,
  }))
  const data = $derived(found.data)
  // Opening reads the clock, and must not be done again whenever that moves.
  $effect(() => {
    const sides = data?.sides
    if (sides) untrack(() => deck.open(sides))
  })
  const studio = $derived(data?.sides.find((side) => side.kind === 'studio'))
  const figure = createQuery(() => ({
    queryKey: ['figure', data?.technique, studio?.side],
    queryFn: () =>
      unwrap(
        client.GET('/api/techniques/{technique_id}/figure', {
          params: {
            path: { technique_id: data?.technique ?? '' },
            query: { side: studio?.side === 'left' ? 'left' : 'right' },
          },
        }),
      ),
    enabled: studio !== undefined,
  }))
  const model = createQuery(() => ({
    queryKey: ['model', rep],
    queryFn: () => unwrap(client.GET('/api/reps/{rep_id}/model', { params: { path: { rep_id: rep } } })),
    enabled: rep !== '',
  }))
  /** Numbered, as two reps of a day would be called the same. */
  const titleOf = (side: Side) => `${(data?.sides.indexOf(side) ?? 0) + 1}. ${bareTitle(side)}`
  const bareTitle = (side: Side) =>
    [side.title, side.filmed_on ? longDay(side.filmed_on) : '', side.side].filter(Boolean).join(', ')
  const names = $derived((data?.sides ?? []).map(titleOf))
  const judged = $derived((data?.sides ?? []).filter((side) => side.kind !== 'view'))
  const row = $derived(data?.rows.find((one) => one.id === checkpoint))
  /** What the checkpoint at hand comes to in a side. */
  function wordsOf(side: Side): string {
    const value = row?.values[judged.indexOf(side)]
    if (!row || !value) return ''
    const measured =
      value.value == null || !value.unit ? '' : ` ${shownWith(value.value, value.uncertainty ?? 0, value.unit)}`
    return `${spoken(value.verdict)}${measured}`
  }
  const pair = $derived(deck.sides.length === 2 && deck.sides[1]?.laid != null)
  const laid = $derived.by(() => {
    const [one, two] = deck.sides
    if (!one || !two?.laid) return ''
    const { scale, dx, dy } = two.laid
    // In shares of the leading picture, so that it holds at any size.
    const wide = (100 * scale * two.width) / one.width
    return `left: ${(100 * dx) / one.width}%; top: ${(100 * dy) / one.height}%; width: ${wide}%`
  })
  const WHY: Record<Schemas['ComparableOut']['why'], string> = {
    'this clip': 'in this clip',
    last: 'the last',
    best: 'the best',
    earlier: 'earlier',
    'other side': 'the other side',
    model: 'model',
    'other student': 'another student',
    studio: 'the studio’s move',
    'second view': 'second view',
  }
  const nameOf = (one: Schemas['ComparableOut']) =>
    [
      one.why === 'this clip' || one.why === 'model' ? one.words : '',
      one.student,
      one.filmed_on && longDay(one.filmed_on),
    ]
      .concat(one.side)
      .filter(Boolean)
      .join(', ')
  const left = $derived((offered.data ?? []).filter((one) => !keys.includes(one.key)))

  function add(key: string): void {
    keys = [...keys, key]
    picking = keys.length < 3 && picking
  }
  function loop(phase: string): void {
    const span = data?.phases[phase]
    const [from, to] = span ?? []
    if (from === undefined || to === undefined) return
    const same = deck.loop?.from === from && deck.loop.to === to
    deck.loop = same ? null : { from, to }
    if (!same) deck.go(from)
  }
  const name = (of: string, checkpointId: string, is: boolean) =>
    asking.run(async () => {
      const body = { checkpoint: checkpointId, model: is }
      const path = { params: { path: { rep_id: of } } }
      queries.setQueryData(['model', of], await unwrap(client.PUT('/api/reps/{rep_id}/model', { ...path, body })))
    })
  /** The first other rep with a film stands beside the leading one's correction of this checkpoint. */
  const besideSide = $derived(deck.sides.slice(1).find((side) => side.rep && side.has_film))
  const putBeside = () =>
    asking.run(async () => {
      if (!besideSide?.rep || !checkpoint) return
      const body = { checkpoint, other: besideSide.rep }
      const done = await unwrap(client.PUT('/api/reps/{rep_id}/beside', { params: { path: { rep_id: rep } }, body }))
      tell('It stands beside your correction now.', done.words)
    })
  async function savePicture(): Promise<void> {
    const { pictureOf } = await import('../lib/compare/picture')
    const panes = [...(board?.querySelectorAll<HTMLElement>('[data-pane]') ?? [])]
    await asking.run(async () => {
      const captions = deck.sides.map((side, i) => ({
        title: names[i] ?? '',
        words: row ? `${row.ask}: ${wordsOf(side)}` : '',
      }))
      const { saveBlob } = await import('../lib/compare/save')
      saveBlob(`compare-${data?.technique}.png`, await pictureOf(deck, panes, captions))
    })
  }
  async function saveCurves(kind: 'csv' | 'png'): Promise<void> {
    const { csv, savePicture: save, saveText } = await import('../lib/compare/save')
    if (kind === 'png') return void (curves && (await save(`curves-${checkpoint}.png`, curves)))
    const first = deck.sides.find((side) => side.curves.length)?.curves[0]
    const rows = deck.sides.flatMap((side, number) => {
      const [curve, times] = [side.curves[0], deck.times(side)]
      return (curve?.values ?? []).map((value, i) => [
        names[number],
        (curve?.first ?? 0) + i,
        times[(curve?.first ?? 0) + i - side.first],
        value,
        curve?.u[i],
      ])
    })
    const head = [
      'side',
      'frame',
      `seconds from ${data?.anchor}`,
      `${first?.name} (${first?.unit})`,
      'standard uncertainty',
    ]
    saveText(`curves-${checkpoint}.csv`, csv([head, ...rows]), 'text/csv')
  }
  function pressed(event: KeyboardEvent): void {
    const typing =
      event.target instanceof HTMLElement &&
      event.target.closest('input:not([type=range]), textarea, select, [role=dialog]')
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return
    const acts: Record<string, () => void> = {
      ArrowRight: () => deck.step(event.shiftKey ? 10 : 1),
      ArrowLeft: () => deck.step(event.shiftKey ? -10 : -1),
      ' ': () => deck.toggle(),
      Home: () => deck.go(0),
      o: () => pair && (layout = layout === 'beside' ? 'over' : 'beside'),
      m: () => (mirrored = !mirrored),
      b: () => session.mayReview && besideSide && checkpoint && void putBeside(),
      t: () => deck.change(deck.mode === 'locked' ? 'stretched' : 'locked'),
    }
    const act = acts[event.key]
    if (!act) return
    event.preventDefault()
    act()
  }
</script>

<svelte:window onkeydown={pressed} onhashchange={() => location.hash.startsWith('#/compare/') && read()} />

<div class="mx-auto max-w-[90rem] px-5 py-4">
  {#if !rep}<p class="notice bad" role="alert">
      A comparison begins with a rep. Open one on the bench and choose Compare.
    </p>{/if}
  {#if found.error}<p class="notice bad mb-2" role="alert">{found.error.message}</p>{/if}
  {#if asking.failure}<p class="notice bad mb-2" role="alert">{asking.failure}</p>{/if}
  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
    <h1>Compare{data ? `: ${data.technique_name}` : ''}</h1>
    {#if data?.sides[0]}<a class="text-sm underline" href="#/bench/{data.sides[0].clip}">To the bench</a>{/if}
    {#if data && session.mayReview}
      {@const is = model.data?.includes('') ?? false}
      <button class="text-sm underline" aria-pressed={is} onclick={() => void name(rep, '', !is)}
        >{is ? 'A model of your academy; take back' : 'Name the first a model'}</button
      >
      {#if row}
        {@const one = model.data?.includes(row.id) ?? false}
        <button class="text-sm underline" aria-pressed={one} onclick={() => void name(rep, row.id, !one)}
          >{one ? 'Model for this checkpoint; take back' : 'Model for this checkpoint'}</button
        >
      {/if}
    {/if}
    <span class="ml-auto flex items-center gap-3 text-sm">
      <button class="button" onclick={() => (picking = !picking)} disabled={keys.length > 2} aria-expanded={picking}
        >Add a rep</button
      >
      {#if session.mayReview && row && besideSide}<button class="button" onclick={() => void putBeside()}
          ><kbd class="max-sm:hidden">B</kbd> Put beside my correction</button
        >{/if}
      <button class="button" onclick={() => (filming = !filming)} aria-expanded={filming} disabled={!data}>Film</button>
      <button class="button" onclick={() => void savePicture()} disabled={!data}>Save picture</button>
    </span>
  </div>
  {#if picking || (offered.data && !keys.length)}
    <ul class="mt-2 flex flex-wrap gap-2 text-sm" aria-label="With what to compare" data-testid="comparable">
      {#each left as one (one.key)}<li>
          <button class="chip" onclick={() => add(one.key)} data-key={one.key}
            ><b>{WHY[one.why]}</b>
            {nameOf(one)}{#if one.missed != null}<span class="soft"> {one.missed} missed</span>{/if}{one.has_film ||
            one.why === 'studio'
              ? ''
              : ', no film'}</button
          >
        </li>{/each}
      {#if offered.data && !left.length}<li class="soft">
          Nothing else to compare with: finish another review of this technique, or name a model.
        </li>{/if}
    </ul>
  {/if}
  {#if data && filming}<section class="band mt-2 p-3" aria-label="Films of this comparison">
      <Films
        review={data.review}
        film={{
          rep,
          sides: data.sides.map((side) => side.key),
          anchor: data.anchor,
          stretched: deck.mode === 'stretched',
          speed: Number(deck.speed),
          drawn: skeleton,
          over: layout !== 'beside' && pair,
          mirrored,
        }}
      />
    </section>{/if}
  {#if data}
    <div
      class="mt-2 grid gap-2"
      style="grid-template-columns: repeat({layout === 'beside' ? deck.sides.length : 1}, minmax(0, 1fr))"
      bind:this={board}
      data-layout={layout}
    >
      {#if layout === 'beside' || !pair}
        {#each deck.sides as side, i (side.key)}
          <figure class="min-w-0">
            <Pane {deck} {side} figure={figure.data} {skeleton} mirrored={mirrored && i > 0} />
            <figcaption class="mt-1 flex flex-wrap items-baseline gap-x-3 text-sm">
              <b class="font-semibold">{names[i]}</b>
              <span class="num soft">frame {deck.frameOf(side)}</span>
              <span class="num">{wordsOf(side)}</span>
              {#if i > 0}<button
                  class="ml-auto self-center"
                  aria-label="Take away {names[i]}"
                  onclick={() => (keys = keys.filter((key) => key !== side.key))}
                  ><X size={15} aria-hidden="true" /></button
                >{/if}
            </figcaption>
          </figure>
        {/each}
      {:else if deck.sides[0] && deck.sides[1]}
        {@const [one, two] = [deck.sides[0], deck.sides[1]]}
        <figure class="mx-auto w-full max-w-3xl">
          <div class="relative overflow-hidden">
            <Pane {deck} side={one} {skeleton} />
            <div
              class="absolute inset-0"
              style={layout === 'over' ? `opacity: ${through}` : `clip-path: inset(0 0 0 ${100 * through}%)`}
              data-testid="laid"
            >
              <div class="absolute" style={laid}>
                <Pane {deck} side={two} {skeleton} mirrored={two.laid?.mirrored ?? false} over />
              </div>
            </div>
            {#if layout === 'wipe'}<div
                class="absolute inset-y-0"
                style="left: {100 * through}%; width: 2px; background: var(--alarm)"
              ></div>{/if}
          </div>
          <figcaption class="mt-1 flex items-center gap-3 text-sm">
            <b class="font-semibold">{names[0]}</b><input
              class="grow"
              type="range"
              min="0"
              max="1"
              step="0.01"
              bind:value={through}
              aria-label={layout === 'over' ? 'How much of the second is seen' : 'Where the wipe stands'}
            /><b class="font-semibold">{names[1]}</b>
          </figcaption>
        </figure>
      {/if}
    </div>
    <div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
      <span class="flex items-center gap-1.5">
        <button class="button" aria-label="One frame back" onclick={() => deck.step(-1)}><StepBack size={16} /></button>
        <button class="button main" aria-label={deck.playing ? 'Pause' : 'Play'} onclick={() => deck.toggle()}
          >{#if deck.playing}<Pause size={16} />{:else}<Play size={16} />{/if}</button
        >
        <button class="button" aria-label="One frame on" onclick={() => deck.step(1)}><StepForward size={16} /></button>
      </span>
      <Segments label="Speed" choices={SPEEDS} value={deck.speed} changed={(next) => (deck.speed = next)} />
      <label
        >Locked on <select
          class="field"
          value={data.anchor}
          onchange={(event) => (anchor = event.currentTarget.value)}
          data-testid="anchor"
          >{#each data.anchors as one (one)}<option value={one}>{spoken(one)}</option>{/each}</select
        ></label
      >
      {#if judged.every((side) => side.stretched_s)}<Segments
          label="How time runs"
          choices={[
            ['locked', 'real time'],
            ['stretched', 'event to event'],
          ]}
          value={deck.mode}
          changed={(next) => deck.change(next)}
          testid="mode"
        />{/if}
      {#if pair}<Segments
          label="Layout"
          choices={[
            ['beside', 'side by side'],
            ['over', 'one over the other'],
            ['wipe', 'wipe'],
          ]}
          value={layout}
          changed={(next) => (layout = next)}
          testid="layout"
        />{:else if deck.sides.length === 2 && deck.sides[1]?.why_not_laid}<span class="soft"
          >{deck.sides[1].why_not_laid}</span
        >{/if}
      <label class="inline-flex items-center gap-1"><input type="checkbox" bind:checked={skeleton} />drawn bodies</label
      >
      {#if layout === 'beside'}<label class="inline-flex items-center gap-1"
          ><input type="checkbox" bind:checked={mirrored} />mirror the others</label
        >{/if}
      <span class="num ml-auto" data-testid="clock">{deck.now >= 0 ? '+' : '−'}{Math.abs(deck.now).toFixed(3)} s</span>
    </div>
    <input
      class="mt-2 w-full"
      type="range"
      aria-label="Time"
      min={deck.from}
      max={deck.to}
      step="0.001"
      value={deck.now}
      oninput={(event) => deck.go(Number(event.currentTarget.value))}
    />
    {#if Object.keys(data.phases).length}<p class="mt-1 flex flex-wrap items-center gap-2 text-sm">
        <span class="soft">Play over and over:</span>
        {#each Object.entries(data.phases) as [phase, span] (phase)}<button
            class="chip"
            aria-pressed={deck.loop?.from === span[0] && deck.loop?.to === span[1]}
            onclick={() => loop(phase)}>{spoken(phase)}</button
          >{/each}
        <span class="soft ml-auto max-sm:hidden"
          ><kbd>←</kbd> <kbd>→</kbd> frame &nbsp; <kbd>space</kbd> plays &nbsp; <kbd>Home</kbd> the event &nbsp;
          <kbd>T</kbd> time &nbsp; <kbd>O</kbd> over &nbsp; <kbd>M</kbd> mirror</span
        >
      </p>{/if}
    {#if checkpoint}<div class="mt-3">
        <Curves {deck} {names} label="The quantity of “{row?.ask ?? checkpoint}” in each rep" bind:svg={curves} />
        {#if deck.sides.some((side) => side.curves.length)}<p class="mt-1 flex gap-3 text-sm">
            <button class="underline" onclick={() => void saveCurves('csv')}>Curves as CSV</button>
            <button class="underline" onclick={() => void saveCurves('png')}>Curves as PNG</button>
          </p>{/if}
      </div>{/if}
    <div class="mt-4">
      <Differences {data} names={judged.map(titleOf)} {checkpoint} choose={(id) => (checkpoint = id)} />
    </div>
  {:else if found.isPending && keys.length}<p class="soft mt-3">Putting them beside one another…</p>{/if}
</div>

<style>
  .band {
    background: var(--band);
  }
  .chip {
    border: 1px solid var(--rule);
    padding: 0.15rem 0.6rem;
  }
  .chip[aria-pressed='true'] {
    border-color: var(--ink);
    font-weight: 600;
  }
</style>
