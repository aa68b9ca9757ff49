<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap } from '../api/client'
  import { session } from '../people/session.svelte'
  import { KINDS } from './items'
  import Reply from './Reply.svelte'

  /** What the student of a clip asked, until somebody has answered. */
  interface Props {
    clip: string
  }
  let { clip }: Props = $props()
  const queries = useQueryClient()
  const found = createQuery(() => ({
    queryKey: ['inbox', 'clip', clip],
    queryFn: () => unwrap(client.GET('/api/clips/{clip_id}/questions', { params: { path: { clip_id: clip } } })),
  }))
  let replying = $state('')
  async function settle(id: string): Promise<void> {
    await unwrap(client.PUT('/api/inbox/{item_id}/done', { params: { path: { item_id: id } } }))
    await queries.invalidateQueries({ queryKey: ['inbox'] })
  }
</script>

{#each found.data ?? [] as item (item.id)}
  <div
    class="rule-b px-3 py-2 text-sm"
    data-testid="question"
    style:color={item.kind === 'pain' ? 'var(--alarm)' : null}
  >
    <p>
      <b>{item.kind === 'pain' ? 'Pain' : 'Asked'}</b> <span class="soft">by {item.student}:</span> “{item.words}”
      <span class="sr-only">{KINDS[item.kind]}</span>
    </p>
    {#if session.mayReview}
      {#if replying === item.id}<Reply {item} done={() => (replying = '')} />{:else}
        <span class="flex gap-4"
          ><button class="underline" onclick={() => (replying = item.id)}>Reply</button>
          <button class="underline" onclick={() => void settle(item.id)}>Answered on the mat</button></span
        >{/if}
    {/if}
  </div>
{/each}
