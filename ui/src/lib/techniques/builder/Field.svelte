<script lang="ts">
  import type { Path } from './file'
  import { told, type Building } from './building.svelte'

  interface Props {
    build: Building
    label: string
    path: Path
    placeholder?: string
    hint?: string
    long?: boolean
    /** Another way to set it than as it is typed. */
    typed?: (words: string) => void
    left?: () => void
    /** Nothing typed deletes the key. */
    optional?: boolean
    /** Problems of what lies below are told here too. */
    below?: boolean
  }
  let {
    build,
    label,
    path,
    placeholder = '',
    hint = '',
    long = false,
    typed,
    left,
    optional = false,
    below = false,
  }: Props = $props()
  const id = $props.id()
  const problems = $derived(build.at(...path).filter((one) => below || one.path.length <= path.length))
  const set = (words: string) =>
    typed ? typed(words) : build.set([path, words === '' && optional ? undefined : words])
</script>

<div class="mt-3">
  <label class="text-sm font-semibold" for={id}>{label}</label>
  {#if hint}<span class="soft block text-sm" id="{id}-hint">{hint}</span>{/if}
  {#if long}
    <textarea
      {id}
      class="field mt-1 w-full"
      rows="2"
      {placeholder}
      value={build.file.words(path)}
      aria-invalid={problems.length > 0}
      aria-describedby={hint ? `${id}-hint` : undefined}
      oninput={(event) => set(event.currentTarget.value)}
      onchange={left}></textarea>
  {:else}
    <input
      {id}
      class="field mt-1 w-full"
      {placeholder}
      value={build.file.words(path)}
      aria-invalid={problems.length > 0}
      aria-describedby={hint ? `${id}-hint` : undefined}
      oninput={(event) => set(event.currentTarget.value)}
      onchange={left}
    />
  {/if}
  {#each problems as problem, i (i)}<p class="bad text-sm">{told(problem, build.file.words(path))}</p>{/each}
</div>

<style>
  .bad {
    color: var(--alarm);
  }
  [aria-invalid='true'] {
    border-color: var(--alarm);
  }
</style>
