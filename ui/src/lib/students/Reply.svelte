<script lang="ts">
  import { useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap } from '../api/client'
  import Toggle from '../parts/Toggle.svelte'
  import { tell } from '../parts/told'
  import type { Item } from './items'

  /** A reply to what a student sent; it stands on the student's page. */
  interface Props {
    item: Item
    done: () => void
  }
  let { item, done }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  let words = $state('')
  let mail = $state(false)

  async function send(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const path = { params: { path: { item_id: item.id } } }
    const sent = await asking.run(async () => {
      await unwrap(client.POST('/api/inbox/{item_id}/reply', { ...path, body: { words, mail } }))
      await queries.invalidateQueries({ queryKey: ['inbox'] })
    })
    if (!sent) return
    tell(mail ? 'Sent by mail, and on the student’s page.' : 'The reply is on the student’s page.')
    done()
  }
</script>

<form class="mt-2 flex flex-col gap-2" aria-label="Reply to {item.student}" onsubmit={send}>
  <label class="flex flex-col gap-1 text-sm"
    >Reply<textarea class="field" rows="2" maxlength="1000" required bind:value={words}></textarea></label
  >
  {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
  <div class="flex flex-wrap items-center gap-4 text-sm">
    <button class="button main">Send the reply</button>
    {#if item.has_address}<Toggle label="Send it by mail too" checked={mail} changed={(next) => (mail = next)} />{/if}
  </div>
</form>
