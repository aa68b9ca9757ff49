<script lang="ts">
  import { Tabs } from '@skeletonlabs/skeleton-svelte'
  import Dialog from '../../parts/Dialog.svelte'
  import { client, unwrap } from '../../api/client'
  import CaptureRate from '../../clips/CaptureRate.svelte'
  import { clipFacts, clipFlaws } from '../../clips/facts'
  import type { Bench } from '../state/bench.svelte'
  import Reference from './Reference.svelte'

  interface Props {
    bench: Bench
    open: boolean
    /** Called when a fact of the clip has changed, so that clip and review are read anew. */
    changed: () => Promise<void>
  }
  let { bench, open = $bindable(), changed }: Props = $props()
  let failure = $state('')
  let tab = $state('rate')
  async function untie(id: string): Promise<void> {
    failure = ''
    try {
      await unwrap(
        client.DELETE('/api/clips/{clip_id}/views/{other_id}', {
          params: { path: { clip_id: bench.clip.id, other_id: id } },
        }),
      )
      await changed()
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }
</script>

<Dialog bind:open title="This clip">
  <p class="mt-1 font-semibold break-all">{bench.clip.name}</p>
  <p class="num soft text-sm">{clipFacts(bench.clip)}</p>
  {#if bench.clip.naming.question}<p class="mt-3">
      <span class="soft">The student asks:</span> “{bench.clip.naming.question}”
    </p>{/if}
  {#each clipFlaws(bench.clip) as flaw (flaw)}<p class="mt-2 text-sm">{flaw}</p>{/each}
  {#if failure}<p class="notice bad mt-3" role="alert">{failure}</p>{/if}
  <Tabs value={tab} onValueChange={(details) => (tab = details.value)} class="mt-5">
    <Tabs.List class="tabs">
      <Tabs.Trigger value="rate" class="tab">Capture rate</Tabs.Trigger>
      <Tabs.Trigger value="reference" class="tab">Reference</Tabs.Trigger>
      <Tabs.Trigger value="views" class="tab">Second view</Tabs.Trigger>
    </Tabs.List>
    <Tabs.Content value="rate" class="pt-3">
      {#if bench.clip.has_film}<CaptureRate clip={bench.clip} frame={bench.player.shown} {changed} />{:else}<p
          class="soft text-sm"
        >
          As the measures came.
        </p>{/if}
    </Tabs.Content>
    <Tabs.Content value="reference" class="pt-3"><Reference {bench} away={() => (open = false)} /></Tabs.Content>
    <Tabs.Content value="views" class="pt-3">
      {#each bench.clip.views as view (view.id)}
        <div class="rule-b flex items-center gap-3 py-2 text-sm">
          <span class="min-w-0 flex-1 break-all">{view.name}{view.view ? `, from the ${view.view}` : ''}</span>
          {#if view.frame != null}
            <span class="num soft">frame {view.frame} here is {view.other_frame} there</span>
            <button class="button" onclick={() => untie(view.id)}>Untie</button>
          {/if}
          <button
            class="button"
            aria-pressed={bench.secondView?.id === view.id}
            onclick={() => ((bench.secondView = bench.secondView?.id === view.id ? null : view), (open = false))}
            >{bench.secondView?.id === view.id ? 'Hide' : 'Show beside'}</button
          >
        </div>
      {:else}<p class="soft text-sm">
          Another clip of {bench.clip.student} from the same day can be tied to this one here.
        </p>{/each}
    </Tabs.Content>
  </Tabs>
</Dialog>
