<script lang="ts">
  import type { Schemas } from '../api/client'
  import { spoken } from '../parts/words'
  import { VIEWS } from '../parts/labels'
  import Drills from './Drills.svelte'
  import Reactions from './Reactions.svelte'
  import Starts from './Starts.svelte'
  import Ways from './Ways.svelte'
  import Drawing from './Drawing.svelte'
  import StudioFigure from './StudioFigure.svelte'
  import { pointName, sided, type Side } from './words'

  let { lesson, drawn }: { lesson: Schemas['LessonOut']; drawn: Schemas['DrawnOut'][] } = $props()

  let side: Side = $state('right')
  let chosen: Record<string, string> = $state({})
  let open = $state('')
  const choice = (key: string, usual: string) => chosen[key] ?? usual
  let layer = $state('')
  const inLayer = (checkpoint: Schemas['LessonCheckpointOut']) => {
    const listed = lesson.layers.find((one) => one.id === layer)?.checkpoints
    return !listed || checkpoint.safety || listed.includes(checkpoint.id)
  }
  const asked = (checkpoint: Schemas['LessonCheckpointOut']) =>
    inLayer(checkpoint) &&
    Object.entries(checkpoint.when).every(([group, wanted]) => {
      const option = lesson.options.find((other) => other.key === group)
      return !option || wanted.includes(choice(group, option.default))
    })
  const options = $derived(
    Object.fromEntries(lesson.options.map((option) => [option.key, choice(option.key, option.default)])),
  )
  const left = $derived(lesson.checkpoints.filter((checkpoint) => !asked(checkpoint)).length)
  const picked = $derived(
    lesson.options.map((option) => option.choices.find((c) => c.key === choice(option.key, option.default))),
  )
  const cautions = $derived([...new Set([...lesson.cautions, ...picked.flatMap((c) => c?.cautions ?? [])])])
</script>

{#snippet sample(picture: Schemas['DrawnOut'] | undefined, kind: string)}
  {#if picture}
    <figure class="max-w-md">
      <Drawing drawn={picture} {kind} {side} />
      {#if picture.value}<figcaption class="num mt-1 text-sm">{picture.value} on the sample rep</figcaption>{/if}
    </figure>
  {/if}
{/snippet}

<article>
  <header>
    <h1>{lesson.name}</h1>
    <p class="soft">
      {lesson.family}{#if lesson.aliases.length}&ensp;·&ensp;also {lesson.aliases.join(', ')}{/if}
    </p>
  </header>

  <section class="notice bad mt-4" aria-label="Cautions">
    <h2>With care</h2>
    <ul class="mt-1 list-disc pl-5 text-sm">
      {#each cautions as caution (caution)}<li>{caution}</li>{/each}
    </ul>
  </section>

  <div class="mt-4 grid gap-x-8 gap-y-3 md:grid-cols-2">
    <div>
      <h2>What it is</h2>
      <p>{lesson.summary}</p>
    </div>
    <div>
      <h2>When it works</h2>
      <p>{lesson.works_when}</p>
      {#if lesson.starts_from}<p class="mt-1 text-sm">
          <span class="soft">Starts from</span>
          {lesson.starts_from.name.toLowerCase()}: {lesson.starts_from.text.toLowerCase()}.
        </p>{/if}
      {#if lesson.falls_back_to.length}<p class="text-sm">
          <span class="soft">Falls back to</span>
          {lesson.falls_back_to.map((p) => p.name.toLowerCase()).join(', ')}.
        </p>{/if}
    </div>
  </div>
  {#if lesson.best_view}<p class="mt-3 text-sm">
      <span class="soft">Film it</span>
      {VIEWS[lesson.best_view]}, level with the hips, with the whole movement in the picture.
    </p>{/if}
  {#if lesson.fits.length}<p class="mt-1 text-sm">
      <span class="soft">Fits the throws</span>
      {lesson.fits.map(spoken).join(', ')}.
    </p>{/if}
  {#if lesson.look_alikes.length}
    <p class="mt-3 text-sm">
      <span class="soft">Easily confused with</span>
      {#each lesson.look_alikes as other, i (other.name)}{i ? '; ' : ''}<b class="font-semibold">{other.name}</b>: {other.text}{/each}.
    </p>
  {/if}

  <div class="switches mt-5">
    <div role="group" aria-label="Side">
      <span class="soft">Side</span>
      {#each ['right', 'left'] as const as one (one)}
        <button class="pick" aria-pressed={side === one} onclick={() => (side = one)}>{one}</button>
      {/each}
    </div>
    {#each lesson.options as option (option.key)}
      <div role="group" aria-label={spoken(option.key)}>
        <span class="soft capital">{spoken(option.key)}</span>
        {#each option.choices as one (one.key)}
          <button
            class="pick"
            title={one.purpose}
            aria-pressed={choice(option.key, option.default) === one.key}
            onclick={() => (chosen = { ...chosen, [option.key]: one.key })}>{one.name}</button
          >
        {/each}
        <span class="text-sm">{option.choices.find((c) => c.key === choice(option.key, option.default))?.purpose}</span>
      </div>
    {/each}
  </div>

  {#if lesson.moves}
    <h2 class="mt-6">See it move</h2>
    <div class="mt-1">
      <StudioFigure technique={lesson.id} name={lesson.name} {side} {options} view={lesson.best_view} />
    </div>
  {/if}

  {#if lesson.layers.length}
    <h2 class="mt-6">Taught in layers</h2>
    <div class="mt-1 flex flex-wrap items-center gap-2" role="group" aria-label="Layer">
      <button class="pick" aria-pressed={layer === ''} onclick={() => (layer = '')}>everything</button>
      {#each lesson.layers as one, i (one.id)}<button
          class="pick"
          aria-pressed={layer === one.id}
          onclick={() => (layer = one.id)}><span class="num">{i + 1}</span> {one.name}</button
        >{/each}
    </div>
  {/if}

  <h2 class="mt-6">Checkpoints</h2>
  {#if left}<p class="soft text-sm" role="status">
      {left}
      {left === 1 ? 'checkpoint is' : 'checkpoints are'} not asked with this choice of options and layer.
    </p>{/if}
  <ul class="mt-1" style="border-top: 2px solid var(--ink)">
    {#each lesson.checkpoints as checkpoint (checkpoint.id)}
      {@const picture = drawn.find((other) => other.id === checkpoint.id)}
      <li class="rule-b py-2" class:out={!asked(checkpoint)} data-lesson-checkpoint={checkpoint.id}>
        <div class="line">
          <span class="soft text-sm">{spoken(checkpoint.phase)}</span>
          <span>
            <b class="font-semibold">{checkpoint.ask}</b>
            {#if checkpoint.safety}<span class="safety">safety</span>{/if}
            {#if checkpoint.entry}<span class="entry">was it open?</span>{/if}
            {#if checkpoint.core}<span class="soft text-xs">core</span>{/if}
            <span class="block text-sm"
              >“{checkpoint.cues.join('” · “')}”{#if checkpoint.cues_for_children.length}<span class="soft">
                  · children: “{checkpoint.cues_for_children.join('”, “')}”</span
                >{/if}</span
            >
          </span>
          <span class="text-sm">
            <span class="num">{checkpoint.wanted}</span>
            <span class="soft block">{checkpoint.kind}</span>
          </span>
          <button
            class="more"
            aria-expanded={open === checkpoint.id}
            onclick={() => (open = open === checkpoint.id ? '' : checkpoint.id)}
            >{open === checkpoint.id ? 'Less' : 'More'}</button
          >
        </div>
        {#if open === checkpoint.id}
          {#if lesson.moves}
            <div class="mt-2">
              <StudioFigure
                technique={lesson.id}
                name={checkpoint.ask}
                {side}
                {options}
                view={lesson.best_view}
                {checkpoint}
              >
                {#snippet instead()}{@render sample(picture, checkpoint.kind)}{/snippet}
              </StudioFigure>
            </div>
          {/if}
          <div class="mt-2 grid gap-6 md:grid-cols-2">
            <dl class="text-sm">
              <dt>Why</dt>
              <dd>{checkpoint.why}.</dd>
              {#if checkpoint.reason_for_range}<dt>Why this range</dt>
                <dd>{checkpoint.reason_for_range}.</dd>{/if}
              {#if checkpoint.look_for}<dt>Look for</dt>
                <dd>{checkpoint.look_for}.</dd>{/if}
              <dt>Fault</dt>
              <dd>{spoken(checkpoint.fault)}, of the family “{checkpoint.family}”.</dd>
              {#if checkpoint.leads_to.length}<dt>Leads to</dt>
                <dd>{checkpoint.leads_to.map(spoken).join(', ').toLowerCase()}.</dd>{/if}
              {#if checkpoint.points.length}<dt>Reads</dt>
                <dd>
                  {checkpoint.points.map((point) => pointName(point, side)).join(', ')}{#if checkpoint.at.length}, at {checkpoint.at
                      .map(spoken)
                      .join(', ')
                      .toLowerCase()}{/if}.
                </dd>{/if}
            </dl>
            {#if !lesson.moves}{@render sample(picture, checkpoint.kind)}{/if}
          </div>
        {/if}
      </li>
    {/each}
  </ul>

  {#if lesson.reactions.length}<Reactions {lesson} {side} {options} />{/if}
  <Ways options={lesson.options} />
  {#if lesson.drills.length}<Drills drills={lesson.drills} />{/if}
  {#if lesson.starts.length}<Starts {lesson} />{/if}
  <h2 class="mt-6">Phases and events</h2>
  <ol class="mt-1 text-sm">
    {#each lesson.phases as phase, i (phase)}
      <li class="rule-b grid gap-x-4 py-1.5 md:grid-cols-[11rem_1fr]">
        <span class="font-semibold"><span class="num soft mr-2">{i + 1}</span>{spoken(phase)}</span>
        <span>
          {#each lesson.events.filter((event) => event.phase === phase) as event (event.key)}
            <span class="block"
              ><b class="font-semibold">{spoken(event.key)}</b>
              {#if event.body === 'partner'}<span class="soft">(partner)</span>{' '}{/if}{' '}<span class="soft"
                >{sided(event.mark, side)}</span
              ></span
            >
          {:else}<span class="soft">no event</span>{/each}
        </span>
      </li>
    {/each}
  </ol>
  <p class="soft mt-1 text-sm">
    Taught in this order: {lesson.teaching_order.map(spoken).join(', ').toLowerCase()}. Ladder: {lesson.ladder
      .map(spoken)
      .join(' · ')
      .toLowerCase()}.
  </p>
  <p class="soft mt-6 text-sm">
    Lacertus measures pictures. It is no medical or safety device. Numbers marked as conventions are where a line was
    drawn, not laws.
  </p>
</article>

<style>
  .capital::first-letter {
    text-transform: uppercase;
  }
  .capital {
    display: inline-block;
  }
  .switches {
    display: grid;
    gap: 0.4rem;
  }
  .switches > div {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.5rem;
  }
  .switches > div > .soft:first-child {
    min-width: 6rem;
    font-size: 0.9rem;
  }
  .line {
    display: grid;
    grid-template-columns: 7rem 1fr 10.5rem 3rem;
    gap: 0 1rem;
    align-items: baseline;
  }
  .more {
    text-decoration: underline;
    font-size: 0.9rem;
    cursor: pointer;
  }
  .out {
    opacity: 0.45;
  }
  .entry {
    color: var(--performer);
    font-size: 0.75rem;
    font-weight: 600;
  }
  .safety {
    color: var(--alarm);
    font-size: 0.75rem;
    font-weight: 600;
  }
  dt {
    color: var(--soft);
    margin-top: 0.35rem;
  }
  @media (max-width: 720px) {
    .line {
      grid-template-columns: 1fr auto;
    }
    .line > :first-child {
      display: none;
    }
    .line > :nth-child(2) {
      grid-column: 1 / -1;
    }
  }
  @media print {
    .more,
    .switches {
      display: none;
    }
    li {
      break-inside: avoid;
    }
  }
</style>
