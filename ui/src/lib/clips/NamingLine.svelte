<script lang="ts">
  import { client, unwrap, type Clip, type Line } from '../api/client'
  import Filmstrip from '../review/strand/Filmstrip.svelte'
  import { completed } from './list'

  interface Props {
    /** The clips that the line is for; what the first one is called already helps to understand it. */
    clips: readonly Clip[]
    saved: () => Promise<void>
    closed: () => void
  }
  let { clips, saved, closed }: Props = $props()
  const ASK_AFTER_MS = 120
  const STRIP = { width: 720, height: 68 }
  const first = $derived(clips[0])
  /** What is said already, ready for the next part. Several clips start empty: what is not said stays as it is
   * for each. */
  function start(): string {
    const line = clips.length > 1 ? '' : first?.line || first?.suggested
    return line ? `${line}, ` : ''
  }
  let text = $state(start())
  let read = $state<Line>({ parts: [], completions: [] })
  let chosen = $state(0)
  let failure = $state('')
  let saving = $state(false)

  // Asked once the typing rests; an answer to an older line is dropped.
  $effect(() => {
    const line = text
    const clip = first?.id ?? null
    const timer = setTimeout(() => {
      void unwrap(client.POST('/api/naming', { body: { line, clip } })).then(
        (answer) => {
          if (line === text) [read, chosen] = [answer, 0]
        },
        (error: unknown) => (failure = String(error instanceof Error ? error.message : error)),
      )
    }, ASK_AFTER_MS)
    return () => clearTimeout(timer)
  })

  async function save(): Promise<void> {
    const line = text.trim()
    if (!line) return void (failure = 'Type who and what, parts between commas.')
    saving = true
    failure = ''
    try {
      await unwrap(client.PUT('/api/clips/names', { body: { clips: clips.map(({ id }) => id), line } }))
      await saved()
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    } finally {
      saving = false
    }
  }

  function take(completion: string | undefined): void {
    if (completion) text = completed(text, completion)
  }

  function key(event: KeyboardEvent): void {
    const { completions } = read
    if (event.key === 'Enter') void save()
    else if (event.key === 'Escape') closed()
    else if (event.key === 'Tab' && !event.shiftKey && completions.length) take(completions[chosen])
    else if (event.key === 'ArrowDown') chosen = Math.min(chosen + 1, completions.length - 1)
    else if (event.key === 'ArrowUp') chosen = Math.max(chosen - 1, 0)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const problems = $derived(read.parts.filter((part) => part.problem))
</script>

<div class="py-2" data-testid="naming">
  {#each clips.slice(0, 4) as clip (clip.id)}
    {#if clip.film}<div
        class="relative mb-2 overflow-hidden"
        style="width: {STRIP.width}px; max-width: 100%; height: {STRIP.height}px; background: var(--well)"
      >
        <Filmstrip clip={clip.id} film={clip.film} from={0} to={clip.frames_done - 1} {...STRIP} />
      </div>{/if}
  {/each}
  <div class="flex flex-wrap items-center gap-3">
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="field min-w-0 flex-1"
      style="font-size: 1.05rem"
      bind:value={text}
      onkeydown={key}
      autofocus
      maxlength="2000"
      autocomplete="off"
      spellcheck="false"
      aria-label={clips.length > 1 ? `Who and what, for ${clips.length} clips` : `Who and what, for ${first?.name}`}
      aria-describedby="understood"
      placeholder="student, technique, side, pace, rung, option, drill, view, “the student’s question”"
    />
    <button class="button main" disabled={saving} onclick={save}
      >{clips.length > 1 ? `Name ${clips.length} clips` : 'Save'}</button
    >
    <button class="button" onclick={closed}>Cancel</button>
  </div>
  <div id="understood" class="mt-1.5 flex min-h-6 flex-wrap items-center gap-x-4 gap-y-1 text-sm" aria-live="polite">
    {#each read.parts.filter((part) => !part.problem) as part (part.kind + part.text)}
      <span data-part={part.kind}
        ><span class="soft">{part.kind}</span> <span class="font-semibold">{part.means}</span></span
      >
    {/each}
  </div>
  {#each problems as part (part.text)}<p class="text-sm" role="alert" style="color: var(--alarm)">
      {part.problem}
    </p>{/each}
  {#if failure}<p class="notice bad mt-1 text-sm" role="alert">{failure}</p>{/if}
  <div
    class="mt-1 flex min-h-7 flex-wrap items-center gap-x-2 gap-y-1 text-sm"
    role="listbox"
    aria-label="What could come next"
  >
    {#each read.completions as completion, i (completion)}
      <button
        class="px-2 py-0.5"
        style="border: 1px solid {i === chosen ? 'var(--ink)' : 'var(--rule)'}"
        role="option"
        aria-selected={i === chosen}
        tabindex="-1"
        onclick={() => take(completion)}>{completion}</button
      >
    {/each}
    <span class="soft ml-auto whitespace-nowrap"
      >{#if read.completions.length}<kbd>Tab</kbd> takes it &nbsp; <kbd>↑</kbd> <kbd>↓</kbd> choose &nbsp;{/if}
      <kbd>Enter</kbd>
      saves &nbsp; <kbd>+Name</kbd> new student &nbsp; <kbd>Esc</kbd></span
    >
  </div>
</div>
