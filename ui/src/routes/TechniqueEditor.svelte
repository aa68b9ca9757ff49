<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { push } from 'svelte-spa-router'
  import { tick, untrack } from 'svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { FileUpload } from '@skeletonlabs/skeleton-svelte'
  import Upload from '@lucide/svelte/icons/upload'
  import Segments from '../lib/parts/Segments.svelte'
  import Editor from '../lib/techniques/Editor.svelte'
  import Builder from '../lib/techniques/builder/Builder.svelte'
  import Drawing from '../lib/techniques/Drawing.svelte'
  import StudioFigure from '../lib/techniques/StudioFigure.svelte'
  import { START } from '../lib/techniques/start'

  let { params }: { params: { technique: string } } = $props()
  const queries = useQueryClient()
  const keptKey = $derived(`lacertus.technique.${params.technique}`)

  let text = $state('')
  let checked: Schemas['CheckedOut'] | undefined = $state()
  let failure = $state('')
  let saving = $state(false)
  let restored = $state(false)
  /** The checkpoint whose figure is open. */
  let moving = $state('')
  let editor = $state<ReturnType<typeof Editor>>()
  /** Both are one file: put together in steps, or written as text. */
  let way = $state<'steps' | 'text'>('steps')
  const parts = createQuery(() => ({
    queryKey: ['building'],
    queryFn: () => unwrap(client.GET('/api/techniques/building')),
    staleTime: Infinity,
  }))
  const techniques = createQuery(() => ({
    queryKey: ['techniques'],
    queryFn: () => unwrap(client.GET('/api/techniques')),
  }))
  // Both are looked at from the beginning: an answer that nobody looks at yet is not told.
  const known = $derived({ parts: parts.data, techniques: techniques.data })
  let timer: ReturnType<typeof setTimeout> | undefined
  let asked = 0

  $effect(() => {
    const technique = params.technique
    // Only another technique opens anew, not what is typed.
    untrack(() => void open(technique))
  })

  async function open(technique: string): Promise<void> {
    const draft = localStorage.getItem(keptKey)
    restored = draft !== null
    if (draft !== null) text = draft
    else if (technique === 'new') text = START
    else {
      try {
        text = await unwrap(
          client.GET('/api/techniques/{technique_id}/file', {
            params: { path: { technique_id: technique } },
            parseAs: 'text',
          }),
        )
      } catch (error) {
        // An empty editor would be saved as a technique of its own.
        failure = error instanceof Error ? error.message : String(error)
        return
      }
    }
    await check()
  }

  function changed(next: string): void {
    if (next === text) return
    text = next
    edited()
  }

  function edited(): void {
    localStorage.setItem(keptKey, text)
    clearTimeout(timer)
    timer = setTimeout(() => void check(), 350)
  }

  async function check(): Promise<void> {
    const mine = ++asked
    try {
      const answer = await unwrap(client.POST('/api/techniques/check', { body: { text } }))
      if (mine === asked) [checked, failure] = [answer, '']
    } catch (error) {
      if (mine === asked) failure = error instanceof Error ? error.message : String(error)
    }
  }

  async function save(): Promise<void> {
    saving = true
    try {
      const lesson = await unwrap(client.PUT('/api/techniques', { body: { text } }))
      localStorage.removeItem(keptKey)
      await queries.invalidateQueries()
      await push(`/techniques/${lesson.id}`)
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    } finally {
      saving = false
    }
  }

  function drop(): void {
    localStorage.removeItem(keptKey)
    void open(params.technique)
  }

  async function importFile(file: File | undefined): Promise<void> {
    if (!file) return
    if (file.size > 200_000) {
      failure = `${file.name} is larger than a technique may be (200 kB). Nothing was changed.`
      return
    }
    text = await file.text()
    edited()
  }

  async function toText(line: number): Promise<void> {
    way = 'text'
    await tick()
    editor?.goTo(line)
  }

  const kinds = $derived(new Map(checked?.lesson?.checkpoints.map((checkpoint) => [checkpoint.id, checkpoint]) ?? []))
</script>

<div class="editor" class:wide={way === 'steps'}>
  <section class="left">
    <div class="top">
      <a
        class="text-sm underline"
        href={params.technique === 'new' ? '#/techniques' : `#/techniques/${params.technique}`}>Back</a
      >
      <h1>{params.technique === 'new' ? 'New technique' : 'Your own version'}</h1>
      <Segments
        label="How to write it"
        choices={[
          ['steps', 'in steps'],
          ['text', 'as text'],
        ]}
        value={way}
        changed={(next) => (way = next)}
      />
      <FileUpload
        class="ml-auto flex-none"
        accept={['.yaml', '.yml', 'text/yaml']}
        maxFiles={1}
        onFileAccept={(details) => void importFile(details.files[0])}
      >
        <FileUpload.Trigger class="button"><Upload size={16} aria-hidden="true" /> Import</FileUpload.Trigger>
        <FileUpload.HiddenInput data-testid="technique-file" />
      </FileUpload>
      <button class="button main" disabled={saving || !checked || checked.problems.length > 0} onclick={save}
        >Save</button
      >
    </div>
    {#if restored}<p class="notice text-sm">
        Unsaved changes from this browser were restored. <button class="underline" onclick={drop}>Discard them</button>
      </p>{/if}
    {#if failure}<p class="notice bad text-sm" role="alert">{failure}</p>{/if}
    {#if way === 'text'}
      <div class="paper"><Editor bind:this={editor} {text} problems={checked?.problems ?? []} {changed} /></div>
    {:else if known.parts && known.techniques && text}
      <Builder
        {text}
        isNew={params.technique === 'new'}
        problems={checked?.problems ?? []}
        parts={known.parts}
        techniques={known.techniques}
        {changed}
        {toText}
      />
    {:else if parts.error}<p class="notice bad text-sm" role="alert">{parts.error.message}</p>
    {:else}<p class="soft">Opening…</p>{/if}
  </section>
  {#if way === 'text'}<section class="right" aria-label="Check">
      {#if !checked}<p class="soft">Checking…</p>
      {:else if checked.problems.length}
        <h2>{checked.problems.length} {checked.problems.length === 1 ? 'problem' : 'problems'}</h2>
        <ul data-testid="problems">
          {#each checked.problems as problem, i (i)}
            <li class="rule-b py-2 text-sm">
              {#if problem.line}<button class="num underline" onclick={() => editor?.goTo(problem.line ?? 1)}
                  >line {problem.line}</button
                >{/if}
              <span class="num soft">{problem.path.join('.')}</span>
              <span class="block">{problem.message}</span>
            </li>
          {/each}
        </ul>
      {:else if checked.lesson}
        <h2>{checked.lesson.name}</h2>
        <p class="soft text-sm" role="status">No problems. Each checkpoint on a sample rep without a fault:</p>
        {#each checked.drawn as drawn (drawn.id)}
          {@const checkpoint = kinds.get(drawn.id)}
          <figure class="rule-b py-3">
            <figcaption class="text-sm">
              <b class="font-semibold">{checkpoint?.ask}</b> <span class="num soft">{checkpoint?.wanted}</span>
            </figcaption>
            {#if checked.lesson.moves && checkpoint}
              {#if moving === drawn.id}
                <StudioFigure
                  technique={checked.lesson.id}
                  name={checkpoint.ask}
                  side="right"
                  options={Object.fromEntries(checked.lesson.options.map((option) => [option.key, option.default]))}
                  {text}
                  view={checked.lesson.best_view}
                  {checkpoint}
                />
              {/if}
              <button
                class="text-sm underline"
                aria-expanded={moving === drawn.id}
                onclick={() => (moving = moving === drawn.id ? '' : drawn.id)}
                >{moving === drawn.id ? 'Hide the figure' : 'See it move'}</button
              >
            {:else if drawn.spots.length}<Drawing {drawn} kind={checkpoint?.kind ?? ''} />{/if}
            <p class="num text-sm">{drawn.value ?? checkpoint?.kind}</p>
          </figure>
        {/each}
      {/if}
    </section>{/if}
</div>

<style>
  .editor {
    display: grid;
    grid-template-columns: 1fr 22rem;
    height: 100%;
  }
  .editor.wide {
    grid-template-columns: minmax(0, 1fr);
  }
  .left,
  .right {
    overflow: auto;
    min-height: 0;
    padding: 0.8rem 1rem;
  }
  .left {
    display: flex;
    flex-direction: column;
    gap: 0.6rem;
  }
  .right {
    border-left: 1px solid var(--rule);
  }
  .top {
    display: flex;
    flex: none;
    align-items: center;
    gap: 1rem;
  }
  .top h1 {
    white-space: nowrap;
    font-size: 1.2rem;
  }
  .paper {
    flex: 1;
    min-height: 20rem;
    overflow: hidden;
    border: 1px solid var(--rule);
  }
  @media (max-width: 900px) {
    .editor {
      grid-template-columns: 1fr;
      height: auto;
    }
  }
</style>
