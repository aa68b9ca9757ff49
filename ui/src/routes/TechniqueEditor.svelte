<script lang="ts">
  import { useQueryClient } from '@tanstack/svelte-query'
  import { push } from 'svelte-spa-router'
  import { untrack } from 'svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import Drawing from '../lib/techniques/Drawing.svelte'
  import { START } from '../lib/techniques/start'

  let { params }: { params: { technique: string } } = $props()
  const queries = useQueryClient()
  const keptKey = $derived(`lacertus.technique.${params.technique}`)

  let text = $state('')
  let checked: Schemas['CheckedOut'] | undefined = $state()
  let failure = $state('')
  let saving = $state(false)
  let restored = $state(false)
  let area: HTMLTextAreaElement | undefined = $state()
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
    else text = await fetch(`/api/techniques/${encodeURIComponent(technique)}/file`).then((answer) => (answer.ok ? answer.text() : START))
    await check()
  }

  function changed(): void {
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

  async function importFile(event: Event): Promise<void> {
    const file = (event.currentTarget as HTMLInputElement).files?.[0]
    if (!file) return
    if (file.size > 200_000) {
      failure = `${file.name} is larger than a technique may be (200 kB). Nothing was changed.`
      return
    }
    text = await file.text()
    changed()
  }

  function goTo(line: number): void {
    if (!area) return
    const lines = text.split('\n')
    const start = lines.slice(0, line - 1).join('\n').length + (line > 1 ? 1 : 0)
    area.focus()
    area.setSelectionRange(start, start + (lines[line - 1]?.length ?? 0))
    area.scrollTop = (line - 6) * 19
  }

  const count = $derived(text.split('\n').length)
  const kinds = $derived(new Map(checked?.lesson?.checkpoints.map((checkpoint) => [checkpoint.id, checkpoint]) ?? []))
</script>

<div class="editor">
  <section class="left">
    <div class="top">
      <a class="text-sm underline" href={params.technique === 'new' ? '#/techniques' : `#/techniques/${params.technique}`}>Back</a>
      <h1>{params.technique === 'new' ? 'A technique of our own' : 'Our own version'}</h1>
      <label class="button ml-auto">Import<input type="file" accept=".yaml,.yml,text/yaml" class="sr-only" onchange={importFile} data-testid="technique-file" /></label>
      <button class="button main" disabled={saving || !checked || checked.problems.length > 0} onclick={save}>Save</button>
    </div>
    {#if restored}<p class="notice text-sm">What you had written is kept in this browser. <button class="underline" onclick={drop}>Start over</button></p>{/if}
    {#if failure}<p class="notice bad text-sm" role="alert">{failure}</p>{/if}
    <div class="paper">
      <pre class="numbers num" aria-hidden="true">{Array.from({ length: count }, (_, i) => i + 1).join('\n')}</pre>
      <textarea class="num" bind:this={area} bind:value={text} oninput={changed} spellcheck="false" wrap="off" rows={count} aria-label="Technique file"></textarea>
    </div>
  </section>
  <section class="right" aria-label="Check">
    {#if !checked}<p class="soft">Checking…</p>
    {:else if checked.problems.length}
      <h2>{checked.problems.length} {checked.problems.length === 1 ? 'problem' : 'problems'}</h2>
      <ul data-testid="problems">
        {#each checked.problems as problem, i (i)}
          <li class="rule-b py-2 text-sm">
            {#if problem.line}<button class="num underline" onclick={() => goTo(problem.line ?? 1)}>line {problem.line}</button>{/if}
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
          <figcaption class="text-sm"><b class="font-semibold">{checkpoint?.ask}</b> <span class="num soft">{checkpoint?.wanted}</span></figcaption>
          {#if drawn.spots.length}<Drawing {drawn} kind={checkpoint?.kind ?? ''} />{/if}
          <p class="num text-sm">{drawn.value ?? checkpoint?.kind}</p>
        </figure>
      {/each}
    {/if}
  </section>
</div>

<style>
  .editor {
    display: grid;
    grid-template-columns: 1fr 22rem;
    height: 100%;
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
    font-size: 1.2rem;
  }
  .paper {
    flex: 1;
    min-height: 0;
    overflow: auto;
    display: grid;
    grid-template-columns: auto 1fr;
    border: 1px solid var(--rule);
    font-size: 13px;
    line-height: 19px;
  }
  .numbers {
    padding: 0.4rem 0.5rem;
    text-align: right;
    color: var(--soft);
    background: var(--band);
    user-select: none;
  }
  textarea {
    padding: 0.4rem 0.6rem;
    resize: none;
    border: 0;
    background: transparent;
    color: var(--ink);
    overflow-y: hidden;
    white-space: pre;
    line-height: 19px;
  }
  @media (max-width: 900px) {
    .editor {
      grid-template-columns: 1fr;
      height: auto;
    }
  }
</style>
