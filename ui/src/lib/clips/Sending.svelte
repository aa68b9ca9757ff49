<script lang="ts">
  import Bar from '../parts/Bar.svelte'
  import { bytes, longDay } from '../parts/words'
  import type { Uploads } from './uploads.svelte'

  interface Props {
    uploads: Uploads
  }
  let { uploads }: Props = $props()
</script>

{#if uploads.busy && uploads.list.length > 1}<p class="num mt-3 text-sm" data-testid="sending">
    {uploads.summary}
  </p>{/if}
{#each uploads.list as upload (upload)}
  <div
    class="rule-b mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 pb-2 text-sm"
    data-upload={upload.file.name}
    data-state={upload.state}
  >
    <span class="min-w-0 font-semibold break-all">{upload.file.name}</span>
    {#if upload.state === 'failed'}
      {#if upload.known}<span role="status">{upload.failure}</span>
      {:else}<span role="alert" style="color: var(--alarm)">{upload.failure}</span>{/if}
      <span class="ml-auto flex gap-2">
        {#if upload.canRetry}<button class="button" onclick={() => uploads.again(upload)}>Try again</button>{/if}
        <button class="button" onclick={() => uploads.drop(upload)}>{upload.canRetry ? 'Cancel' : 'Dismiss'}</button>
      </span>
    {:else}
      <Bar label="{upload.file.name}: uploaded" share={upload.share} />
      <span class="num soft"
        >{upload.state === 'queued' ? `waiting · ${bytes(upload.file.size)}` : upload.progress}</span
      >
      <button class="button ml-auto" onclick={() => uploads.drop(upload)}>Cancel</button>
    {/if}
  </div>
{/each}
{#each uploads.earlier as earlier (earlier.key)}
  <div class="rule-b mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 pb-2 text-sm" data-unfinished={earlier.name}>
    <span
      ><span class="font-semibold break-all">{earlier.name}</span> <span class="num soft">{bytes(earlier.size)}</span>
      was not uploaded completely on {longDay(new Date(earlier.begun).toLocaleDateString('sv'))}. Choose the same file
      again to resume the upload.</span
    >
    <button class="button ml-auto" onclick={() => uploads.forget(earlier)}>Delete</button>
  </div>
{/each}
