<script lang="ts">
  import { createQuery, keepPreviousData, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap } from '../lib/api/client'
  import Segments from '../lib/parts/Segments.svelte'
  import { moment } from '../lib/parts/words'
  import { session } from '../lib/people/session.svelte'
  import { KINDS, text, wantsReply, type Item } from '../lib/students/items'
  import Reply from '../lib/students/Reply.svelte'

  /** What came in from students and guardians, until somebody has dealt with it. */
  let done = $state(false)
  let replying = $state('')
  const queries = useQueryClient()
  const asking = new Asking()
  const inbox = createQuery(() => ({
    queryKey: ['inbox', done],
    queryFn: () => unwrap(client.GET('/api/inbox', { params: { query: { done } } })),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
  }))
  // The badge is never behind the list.
  $effect(() => {
    if (inbox.data) queries.setQueryData(['inbox', 'waiting'], { waiting: inbox.data.waiting })
  })
  const items = $derived(inbox.data?.items ?? [])
  const settle = (item: Item) =>
    asking.run(async () => {
      const path = { params: { path: { item_id: item.id } } }
      await unwrap(
        item.done_at ? client.DELETE('/api/inbox/{item_id}/done', path) : client.PUT('/api/inbox/{item_id}/done', path),
      )
      await queries.invalidateQueries({ queryKey: ['inbox'] })
    })
</script>

<div class="mx-auto max-w-4xl px-5 py-6">
  <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
    <h1>Inbox</h1>
    <Segments
      label="Which items"
      choices={[
        ['no', 'waiting'],
        ['yes', 'done'],
      ]}
      value={done ? 'yes' : 'no'}
      changed={(next) => (done = next === 'yes')}
    />
  </div>
  {#if inbox.error}<p class="notice bad mt-3" role="alert">{inbox.error.message}</p>{/if}
  {#if asking.failure}<p class="notice bad mt-3" role="alert">{asking.failure}</p>{/if}
  {#if inbox.data && items.length === 0}
    <p class="notice mt-4">
      {done
        ? 'Nothing has been dealt with yet.'
        : 'Nothing waits. Answers, questions and clips that students send from their own page appear here. Make a link to that page on the student’s page.'}
    </p>
  {/if}
  <ul class="mt-4" style={items.length ? 'border-top: 2px solid var(--ink)' : ''}>
    {#each items as item (item.id)}
      <li class="rule-b py-3" data-item={item.kind}>
        <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <b style:color={item.kind === 'pain' ? 'var(--alarm)' : null}>{KINDS[item.kind]}</b>
          <a class="underline" href="#/students/{item.student_id}">{item.student}</a>
          {#if item.sent_by === 'guardian'}<span class="soft text-sm">guardian</span>{/if}
          <span class="soft num ml-auto text-sm">{moment(item.created_at)}</span>
        </div>
        <p class="mt-1" class:text-lg={wantsReply(item)}>{text(item)}</p>
        {#if item.reply}<p class="notice mt-2"><b>{item.by || 'Reply'}:</b> {item.reply}</p>{/if}
        <div class="mt-1 flex flex-wrap gap-4 text-sm">
          {#if item.review_id}<a class="underline" href="#/sheet/{item.review_id}">Open the sheet</a>
          {:else if item.clip_id}<a class="underline" href="#/bench/{item.clip_id}">Open the clip</a>{/if}
          {#if session.mayReview}
            {#if !item.done_at && replying !== item.id && item.kind !== 'opened' && item.kind !== 'forget'}<button
                class="underline"
                onclick={() => (replying = item.id)}>Reply</button
              >{/if}
            {#if item.kind === 'forget'}<a class="underline" href="#/students/{item.student_id}"
                >Go to the student, where owners delete</a
              >{/if}
            <button class="underline" onclick={() => settle(item)}
              >{item.done_at ? 'Move back to waiting' : 'Done'}</button
            >
          {/if}
          {#if item.done_at}<span class="soft">{item.by} <span class="num">{moment(item.done_at)}</span></span>{/if}
        </div>
        {#if replying === item.id}<Reply {item} done={() => (replying = '')} />{/if}
      </li>
    {/each}
  </ul>
</div>
