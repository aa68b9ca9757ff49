<script lang="ts">
  import { days } from './days'
  import EyeFilm from './EyeFilm.svelte'
  import { say } from './say'
  import type { EyeSet, Given } from './set.svelte'
  import { KINDS, offBy } from './words'

  /** One question of a set: the film, the answer, and afterwards what is so. */
  interface Props {
    set: EyeSet
  }
  let { set }: Props = $props()
  const asked = $derived(set.now)
  const question = $derived(asked?.question)
  const result = $derived(set.result)
  const films = $derived(asked?.films ?? [])
  let players = $state<(EyeFilm | undefined)[]>([])
  let frames = $state([0, 0])
  let degrees = $state<number | undefined>()
  /** What was said before the wanted range was shown. */
  let before = $state<number | null>(null)
  let chosen = $state('')
  /** The film that what is true is drawn over: of two, the one that was not right. */
  const told = $derived(question?.kind === 'right' && result?.truth.choice === 'first' ? 1 : 0)
  const wanted = $derived.by(() => {
    const [low, high] = [question?.low, question?.high]
    const values = { low: low?.toFixed(0) ?? '', high: high?.toFixed(0) ?? '' }
    if (low != null && high != null) return say('between {low}° and {high}°', values)
    if (low != null) return say('at least {low}°', values)
    return high == null ? '' : say('at most {high}°', values)
  })

  function give(given: Partial<Given>): void {
    chosen = given.choice ?? ''
    void set.answer({ frame: null, before: null, after: null, choice: null, ...given }).then(() => {
      const frame = set.result?.truth.frame
      if (frame != null) players[told]?.show(frame)
    })
  }
  function sayAngle(): void {
    if (degrees === undefined || result !== undefined) return
    if (before === null && wanted) before = degrees
    else give({ before: before ?? degrees, after: before === null ? null : degrees })
  }
  function next(): void {
    degrees = undefined
    before = null
    chosen = ''
    if (set.failure) set.skip()
    else set.next()
  }
  /** What Enter does: the answer that is ready, or the next question. */
  function enter(): void {
    if (result !== undefined || set.failure) next()
    else if (question?.kind === 'frame') give({ frame: frames[0] ?? null })
    else if (question?.kind === 'angle') sayAngle()
  }
  function key(event: KeyboardEvent): void {
    const within = event.target instanceof HTMLElement ? event.target : null
    const types = within?.matches('input:not([type=range])') ?? false
    if (event.ctrlKey || event.metaKey || event.altKey || (types && event.key !== 'Enter')) return
    if (event.key === 'Enter' && within?.matches('button, a')) return
    const number = Number(event.key)
    const choice = question?.choices[number - 1]
    if (event.key === 'Enter') enter()
    else if (event.key === ' ') players.forEach((player) => player?.toggle())
    else if (event.key === 'ArrowLeft') players.forEach((player) => player?.step(event.shiftKey ? -10 : -1))
    else if (event.key === 'ArrowRight') players.forEach((player) => player?.step(event.shiftKey ? 10 : 1))
    else if (number && choice && result === undefined) give({ choice: choice.id })
    else return
    event.preventDefault()
  }
</script>

<svelte:window onkeydown={key} />
{#if asked && question}
  <section
    class="max-w-3xl"
    aria-label={say('Question {number} of {all}', { number: set.at + 1, all: set.asked.length })}
    data-testid="eye-question"
    data-kind={question.kind}
    data-fetched={set.fetched >= set.asked.length}
  >
    <p class="soft flex flex-wrap gap-x-3 text-sm">
      <span class="num">{say('{number} of {all}', { number: set.at + 1, all: set.asked.length })}</span>
      <span>{asked.technique_name}</span>
      <span>{say(KINDS[question.kind])}</span>
      <span>{films[0]?.is_real ? say('film of this academy') : say('level {level} of 5', { level: asked.level })}</span>
    </p>
    <h2 class="mt-1 text-lg" aria-live="polite">{question.says}</h2>
    <div class="mt-2 grid gap-2" class:sm:grid-cols-2={films.length > 1}>
      {#each films as film, i (film.id)}
        <EyeFilm
          bind:this={players[i]}
          bind:frame={frames[i]}
          {film}
          src={set.film(film.id)}
          label={films.length > 1 ? (i ? say('The second film') : say('The first film')) : say('The film')}
          from={films.length > 1 ? film.first : question.first}
          to={result === undefined && films.length === 1 ? question.last : film.last}
          still={question.kind === 'angle' ? question.frame : null}
          drawn={result && i === told ? result.truth.drawn : []}
          drawnOn={result?.truth.frame}
        />
      {/each}
    </div>
    {#if result === undefined}
      <div class="mt-3 flex flex-wrap items-center gap-2" data-testid="eye-answers">
        {#if question.kind === 'frame'}
          <button class="button main" disabled={set.busy} onclick={() => give({ frame: frames[0] ?? null })}
            >{say('This frame')} <kbd class="max-sm:hidden">Enter</kbd></button
          >
          <span class="soft text-sm max-sm:hidden"
            ><kbd>←</kbd> <kbd>→</kbd> {say('step')}, <kbd>Space</kbd> {say('plays')}</span
          >
        {:else if question.kind === 'angle'}
          {#if before !== null}<p class="basis-full" data-testid="eye-wanted">
              {say('Wanted is {range}. You said {degrees}°. Say it again, now that you know.', {
                range: wanted,
                degrees: before,
              })}
            </p>{/if}
          <label class="flex items-center gap-2"
            >{say('Degrees')}<input
              class="field num w-24"
              type="number"
              inputmode="numeric"
              min="0"
              max="180"
              bind:value={degrees}
            /></label
          >
          <input
            class="w-56 max-sm:w-full"
            type="range"
            min="0"
            max="180"
            aria-label={say('Degrees, by sliding')}
            value={degrees ?? 90}
            oninput={(event) => (degrees = Number(event.currentTarget.value))}
          />
          <button class="button main" disabled={set.busy || degrees === undefined} onclick={sayAngle}
            >{say('Say it')} <kbd class="max-sm:hidden">Enter</kbd></button
          >
        {:else}
          {#each question.choices as choice, i (choice.id)}
            <button
              class="button text-left max-sm:w-full"
              disabled={set.busy}
              onclick={() => give({ choice: choice.id })}
              data-choice={choice.id}><kbd class="max-sm:hidden">{i + 1}</kbd>{choice.says}</button
            >
          {/each}
        {/if}
      </div>
    {:else if result === null}
      <p class="notice mt-3" role="status">
        {say(
          'The server cannot be reached. Your answer is kept in this browser and sent when it can be; then this page says what is so.',
        )}
      </p>
    {:else}
      <div class="band mt-3 p-3" role="status" data-testid="eye-result" data-hit={result.scored.hit}>
        <p class="text-lg font-semibold" style="color: {result.scored.hit ? 'var(--met)' : 'var(--alarm)'}">
          {result.scored.hit ? '✓' : '✗'}
          {offBy(result.scored)}
        </p>
        <p class="mt-1"><b>{result.truth.says}</b> {result.truth.why}</p>
        {#if chosen && !result.scored.hit}<p class="soft text-sm">
            {say('You said: {answer}', { answer: question.choices.find((one) => one.id === chosen)?.says ?? '' })}
          </p>{/if}
        <p class="soft mt-1 text-sm">
          {say('Such a question comes back {when}, on a new film of level {level}.', {
            when: days(result.due_at),
            level: result.level,
          })}
        </p>
      </div>
    {/if}
    {#if set.failure}<p class="notice bad mt-3" role="alert">{set.failure}</p>{/if}
    {#if result !== undefined || set.failure}
      <button class="button main mt-3" onclick={next}
        >{set.at + 1 < set.asked.length ? say('Next') : say('See how it went')}
        <kbd class="max-sm:hidden">Enter</kbd></button
      >
    {/if}
  </section>
{/if}
