<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import Plus from '@lucide/svelte/icons/plus'
  import Trash2 from '@lucide/svelte/icons/trash-2'
  import { joins, type Figure } from '../../figure/motion'
  import { sentence, spoken } from '../../parts/words'
  import Field from './Field.svelte'
  import RangeRuler from './RangeRuler.svelte'
  import SamplePose from './SamplePose.svelte'
  import Sentence from './Sentence.svelte'
  import { sampled, told, type Building } from './building.svelte'
  import { named } from './file'
  import { begun, relative, rulerOf, sidesOf, type Form } from './forms'
  import { POINTS } from './pose'

  let { build, figure }: { build: Building; figure: Figure | undefined } = $props()
  let active = $state('')

  const { forms } = $derived(build.parts)
  const list = $derived(build.file.list(['checkpoints']).map((one) => (one ?? {}) as Record<string, unknown>))
  const form = $derived(build.form)
  const sides = $derived(sidesOf(build.file))
  const order = $derived(build.inOrder(figure))
  const times = $derived(build.timesOn(figure))
  const measure = $derived(build.file.at([...build.path, 'measure']))
  const kind = $derived(build.file.words([...build.path, 'kind']))
  const places = $derived(form?.places.filter((place) => place.of === 'point') ?? [])
  const ruler = $derived(form ? rulerOf(form, measure) : null)
  const pathOf = (place: Form['places'][number]) => [...build.path, 'measure', ...place.path]
  const valueOf = (place: Form['places'][number]) => build.file.words(pathOf(place))
  /** In the order in which the kind reads them: the joint lies between the others. */
  const read = $derived(
    [...places].sort((a, b) => Number(a.path.at(-1)) - Number(b.path.at(-1)) || 0).map((place) => valueOf(place)),
  )
  const bodies = $derived(figure ? figure.bodies.map((one) => one.body) : ['performer', 'partner'])
  const points = $derived(bodies.flatMap((body) => POINTS.map((joint) => relative(joint, body, sides))))
  /** When it is read: at the last of its events that the figure has. */
  const at = $derived(
    form?.places
      .filter((place) => place.of === 'event' || place.of === 'events')
      .flatMap((place) => (place.of === 'event' ? [valueOf(place)] : build.file.list(pathOf(place)).map(String)))
      .map((event) => times[event])
      .findLast((one) => one !== undefined),
  )
  const within = $derived.by((): [number | null, number | null] => {
    const found = build.file.list([...build.path, 'within'])
    return [typeof found[0] === 'number' ? found[0] : null, typeof found[1] === 'number' ? found[1] : null]
  })
  const WEDGES: Record<string, 'joint' | 'lean'> = { angle: 'joint', lean: 'lean' }
  const wedge = $derived.by(() => {
    const which = WEDGES[form?.id ?? '']
    return which && form?.wanted ? { kind: which, within, step: form.wanted.step } : undefined
  })
  const asked = $derived(places.find((place) => place.key === active) ?? places[0])

  const question = $derived({ model: build.model, times, kind, measure })
  const sample = createQuery(() => ({
    queryKey: ['sampled', JSON.stringify(question)],
    queryFn: () => sampled(question.model, question.times, question.kind, question.measure),
    enabled: !!form?.wanted && !!question.model && at !== undefined,
    staleTime: Infinity,
    retry: false,
  }))

  function add(form: Form): void {
    build.addCheckpoint(form, begun(form, order))
    active = ''
  }
  function pick(point: string): void {
    if (!asked) return
    build.set([[...build.path, 'measure', ...asked.path], point])
    const next = places[(places.indexOf(asked) + 1) % places.length]
    active = next?.key ?? ''
  }
  const chosenForm = (id: string) => forms.find((one) => one.id === id)
  const wrong = (i: number) => build.at('checkpoints', i).length
</script>

<div class="three">
  <nav aria-label="Checkpoints">
    <ol class="text-sm">
      {#each list as one, i (i)}
        <li>
          <button
            class="row"
            class:now={i === build.chosen}
            aria-current={i === build.chosen}
            onclick={() => {
              build.chosen = i
              active = ''
            }}
            ><span class="num soft">{i + 1}</span>
            {String(one.ask ?? '') || 'New checkpoint'}
            {#if wrong(i)}<span class="wrong">{wrong(i)} to fill in</span>{/if}</button
          >
        </li>
      {/each}
    </ol>
    <details class="mt-3" open={list.length === 0}>
      <summary class="button"><Plus size={16} aria-hidden="true" /> Add a checkpoint</summary>
      <ul class="mt-1 text-sm" data-testid="forms">
        {#each forms as one (one.id)}
          <li><button class="row" onclick={() => add(one)}>{one.name}</button></li>
        {/each}
      </ul>
    </details>
  </nav>

  {#if build.chosen < list.length}
    <section aria-label="The checkpoint">
      {#if form}
        <label class="text-sm font-semibold"
          >What is looked at
          <select
            class="field mt-1 block"
            value={form.id}
            onchange={(event) => {
              const next = chosenForm(event.currentTarget.value)
              if (next) build.writeAs(next, begun(next, order))
            }}
          >
            {#each forms as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
          </select>
        </label>
        <div class="mt-2"><Sentence {build} {form} {points} bind:active /></div>
        {#if ruler}
          <p class="mt-3 text-sm font-semibold">What is wanted</p>
          <RangeRuler
            range={ruler}
            {within}
            value={sample.data?.value ?? null}
            u={sample.data?.u ?? 0}
            changed={(next) => build.set([[...build.path, 'within'], next])}
          />
          {#each build.at(...build.path, 'within') as problem, i (i)}<p class="wrong text-sm">
              {sentence(problem.message)}
            </p>{/each}
          {#if sample.data?.why}<p class="soft text-sm">The figure does not tell: {sample.data.why}.</p>{/if}
        {/if}
      {:else}
        <p class="notice text-sm">
          This checkpoint ({spoken(kind)}) is measured in a way that these steps do not show. Its words can be changed
          here, how it is measured in the text.
        </p>
      {/if}
      <Field
        {build}
        label="What is asked"
        path={[...build.path, 'ask']}
        placeholder="Leg nearly straight"
        left={() => build.nameByAsk()}
      />
      {#if form?.wanted}
        <Field
          {build}
          label="Why this range"
          path={[...build.path, 'reason_for_range']}
          placeholder="Beyond it the kick no longer reaches"
          optional
        />
      {/if}
      <div class="flex flex-wrap gap-x-4">
        <div class="mt-3 grow">
          <label class="text-sm font-semibold" for="fault">What the fault is called</label>
          <input
            id="fault"
            class="field mt-1 w-full"
            placeholder="bent leg"
            value={spoken(build.file.words([...build.path, 'fault', 'code']))}
            onchange={(event) => build.set([[...build.path, 'fault', 'code'], named(event.currentTarget.value, '-')])}
          />
          {#each build.at(...build.path, 'fault', 'code') as problem, i (i)}<p class="wrong text-sm">
              {told(problem, build.file.words([...build.path, 'fault', 'code']))}
            </p>{/each}
        </div>
        <label class="mt-3 text-sm font-semibold"
          >Kind of fault
          <select
            class="field mt-1 block"
            value={build.file.words([...build.path, 'fault', 'family'])}
            onchange={(event) => build.set([[...build.path, 'fault', 'family'], event.currentTarget.value])}
          >
            {#each build.parts.fault_families as family (family)}<option>{family}</option>{/each}
          </select>
        </label>
      </div>
      <Field
        {build}
        label="What you say to the student"
        path={[...build.path, 'cues', 0]}
        placeholder="Reach through"
        below
      />
      <Field {build} label="What goes wrong without it" path={[...build.path, 'why']} long />
      <div class="mt-3 flex flex-wrap gap-4 text-sm">
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            checked={build.file.at([...build.path, 'safety']) === true}
            onchange={(event) => build.set([[...build.path, 'safety'], event.currentTarget.checked || undefined])}
          />It protects somebody</label
        >
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            checked={build.file.at([...build.path, 'core']) === true}
            onchange={(event) => build.set([[...build.path, 'core'], event.currentTarget.checked || undefined])}
          />The technique hangs on it</label
        >
        <button
          class="ml-auto inline-flex min-h-7 items-center gap-1 underline"
          onclick={() => build.deleteCheckpoint(build.chosen)}
          ><Trash2 size={16} aria-hidden="true" /> Delete this checkpoint</button
        >
      </div>
    </section>
    <section aria-label="The figure">
      {#if figure && at !== undefined}
        {#if places.length}<p class="mb-1 text-sm">
            Click the <b>{asked ? spoken(asked.key) : ''}</b> on the figure, or pick it in the sentence.
          </p>{/if}
        <SamplePose
          {figure}
          seconds={at}
          {sides}
          points={read}
          joined={joins(kind, read.length)}
          picked={pick}
          asked={asked ? spoken(asked.key) : ''}
          {wedge}
          dragged={(next) => build.set([[...build.path, 'within'], next])}
        />
        {#if wedge}<p class="soft text-sm">The green range is dragged by its ends, here or on the ruler.</p>{/if}
      {:else}
        <p class="soft text-sm">
          {figure
            ? 'Say in the movement step when this happens on the figure, and it is shown here.'
            : 'Choose in the movement step what it moves like, and the figure is shown here.'}
        </p>
      {/if}
    </section>
  {:else}
    <p class="soft">Choose what the first checkpoint looks at.</p>
  {/if}
</div>

<style>
  .three {
    display: grid;
    grid-template-columns: 13rem minmax(0, 1.25fr) minmax(0, 1fr);
    gap: 1.6rem;
  }
  .row {
    display: block;
    width: 100%;
    min-height: 1.8rem;
    padding: 0.25rem 0.4rem;
    text-align: left;
  }
  .row:hover,
  .row.now {
    background: var(--band);
  }
  .now {
    font-weight: 600;
  }
  summary {
    list-style: none;
  }
  .wrong {
    color: var(--alarm);
  }
  .row .wrong {
    display: block;
    font-weight: 400;
  }
  @media (max-width: 1000px) {
    .three {
      grid-template-columns: 1fr;
    }
  }
</style>
