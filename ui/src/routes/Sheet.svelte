<script lang="ts">
  import Link from '@lucide/svelte/icons/link'
  import Mail from '@lucide/svelte/icons/mail'
  import type { HTMLAnchorAttributes } from 'svelte/elements'
  import { Menu, Portal } from '@skeletonlabs/skeleton-svelte'
  import ChevronDown from '@lucide/svelte/icons/chevron-down'
  import Download from '@lucide/svelte/icons/download'
  import DayField from '../lib/parts/DayField.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import { tell } from '../lib/parts/told'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, send, unwrap, write, type Schemas } from '../lib/api/client'
  import Films from '../lib/compare/Films.svelte'
  import AskColleague from '../lib/plan/AskColleague.svelte'
  import Proposals from '../lib/plan/Proposals.svelte'
  import Worked from '../lib/plan/Worked.svelte'
  import JobProgress from '../lib/jobs/JobProgress.svelte'
  import { jobOf, runs } from '../lib/jobs/jobs'
  import { DAYS, longDay, saidWords, seconds, spoken } from '../lib/parts/words'

  let { params }: { params: { review: string } } = $props()
  const queries = useQueryClient()
  const path = $derived({ params: { path: { review_id: params.review } } })
  const key = $derived(['sheet', params.review])
  const page = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/reviews/{review_id}/sheet', path)),
    refetchInterval: (query) => (query.state.data?.jobs.some(runs) ? 700 : false),
  }))
  const data = $derived(page.data)
  const marked = $derived(data?.marked)
  const making = $derived(data ? jobOf(data.jobs, 'make_marked_clip', data.review) : null)
  let words = $state<Schemas['SheetWords'] | null>(null)
  let days = $state(30)
  let to = $state('')
  let failure = $state('')
  let why = $state('')
  let reopening = $state(false)
  const files = [
    ['measures.csv', 'Measures (CSV)', 'measures.csv'],
    ['corrections.vtt', 'Corrections (WebVTT)', 'corrections.vtt'],
    ['schedule.ics', 'Next clip (iCalendar)', 'next-clip.ics'],
  ] as const
  let version = $state(0)
  $effect(() => {
    if (data && words === null) words = { ...data.words }
  })
  const changed = $derived(data && words && JSON.stringify(words) !== JSON.stringify(data.words))

  async function doing(work: () => Promise<unknown>, done = ''): Promise<void> {
    failure = ''
    try {
      await work()
      if (done) tell(done)
      await queries.invalidateQueries({ queryKey: key })
      version++
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }
  const keepWords = () =>
    doing(
      () =>
        unwrap(
          client.PUT('/api/reviews/{review_id}/words', {
            ...path,
            body: words ?? { good: '', answer: '', note: '', next_on: '' },
          }),
        ),
      'Saved as a new revision.',
    )
  const makeLink = () =>
    doing(async () =>
      copy((await unwrap(client.POST('/api/reviews/{review_id}/links', { ...path, body: { days } }))).address),
    )
  const mail = () =>
    doing(async () => {
      const sent = await unwrap(client.POST('/api/reviews/{review_id}/mail', { ...path, body: { days, to } }))
      if (sent.file)
        tell(
          `Saved in the outbox for ${sent.to}`,
          `${sent.file}. No mail relay is set, so nothing has left this machine.`,
        )
      else tell(`Sent to ${sent.to}.`)
    })
  const revoke = (id: string) =>
    doing(() => unwrap(client.DELETE('/api/links/{link_id}', { params: { path: { link_id: id } } })), 'Link revoked.')
  const makeClip = () => doing(() => unwrap(client.POST('/api/reviews/{review_id}/marked', path)))
  async function reopen(): Promise<void> {
    await doing(async () => {
      const review = await send(write('post', '/api/reviews/{review_id}/reopen', { review_id: params.review }, { why }))
      await queries.invalidateQueries()
      location.hash = `#/bench/${review.clip_id}`
    })
  }
  async function copy(address: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(address)
      tell('Link copied.')
    } catch {
      tell('Link created.')
      // Without TLS there is no clipboard: the link stands in the list, to be marked and copied.
    }
  }
  const at = (iso: string) =>
    new Date(iso).toLocaleString(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
  const over = (link: Schemas['LinkOut']) => link.revoked_at != null || new Date(link.expires_at) < new Date()
</script>

<div class="mx-auto grid max-w-6xl gap-8 px-4 py-5 lg:grid-cols-[minmax(0,1fr)_minmax(0,30rem)]">
  {#if page.error}<p class="notice bad" role="alert">
      {page.error.message} <a class="underline" href="#/clips">Back to the clips</a>
    </p>{/if}
  {#if data && words}
    <section aria-label="Sheet and links" class="min-w-0">
      <h1>Sheet for <a class="underline" href="#/students/{data.student}">{data.student_name}</a></h1>
      <p class="soft text-sm">
        {#if data.finished}Revision <span class="num">{data.revisions[0]?.number}</span>, {at(
            data.revisions[0]?.created_at ?? '',
          )}. <a class="underline" href="#/bench/{data.clip}">To the bench</a>
        {:else}Being revised: “{data.reopened_why}”. The student sees the last finished one until you
          <a class="underline" href="#/bench/{data.clip}">finish it on the bench</a>.{/if}
      </p>
      {#if failure}<p class="notice bad mt-2" role="alert">{failure}</p>{/if}
      {#if data.finished}<Proposals review={params.review} student={data.student} /><Worked
          review={params.review}
        /><AskColleague review={params.review} />{/if}

      <h2 class="mt-5">Send</h2>
      <div class="mt-1 flex flex-wrap items-end gap-2 text-sm">
        <span class="flex items-center gap-2"
          >valid for <Segments
            label="Days that a link is valid"
            choices={DAYS}
            value={String(days)}
            changed={(next) => (days = Number(next))}
            testid="link-days"
          /></span
        >
        <button class="button main" onclick={makeLink}><Link size={16} aria-hidden="true" /> Make a link</button>
        <span class="basis-full"></span>
        <label class="grow"
          ><span class="sr-only">E-mail</span><input
            class="field w-full"
            type="email"
            bind:value={to}
            placeholder={data.email || 'e-mail of the student or a parent'}
          /></label
        >
        <button class="button" disabled={!to && !data.email} onclick={mail}
          ><Mail size={16} aria-hidden="true" /> Send by mail</button
        >
      </div>
      {#if data.links.length}
        <ul class="mt-2 text-sm">
          {#each data.links as link (link.id)}
            <li class="rule-b flex flex-wrap items-baseline gap-x-3 py-1.5" data-link={link.id}>
              {#if over(link)}<span class="soft line-through">{link.sent_to || 'link'}</span><span class="soft"
                  >{link.revoked_at ? 'revoked' : 'expired'}</span
                >
              {:else}
                <a
                  class="num max-w-[19rem] truncate underline"
                  href={link.address}
                  target="_blank"
                  rel="noreferrer"
                  data-testid="link">{link.address}</a
                >
                <button class="underline" onclick={() => copy(link.address)}>copy</button>
                <button class="underline" style="color: var(--alarm)" onclick={() => revoke(link.id)}>revoke</button>
              {/if}
              <span class="soft ml-auto"
                >{link.sent_to ? `${link.sent_to} · ` : ''}{link.opened
                  ? `opened ${link.opened}×, last ${at(link.last_opened_at ?? '')}`
                  : 'not opened yet'}{over(link) ? '' : ` · until ${at(link.expires_at)}`}</span
              >
            </li>
          {/each}
        </ul>
      {:else}<p class="soft mt-1 text-sm">
          Nobody outside can see this sheet yet. A link opens it without signing in until it expires or you revoke it.
        </p>{/if}

      <h2 class="mt-5">Marked clip</h2>
      <div class="mt-1 flex flex-wrap items-center gap-3 text-sm" data-testid="marked">
        {#if data.corrections === 0}<span class="soft"
            >No correction was drawn, so there is nothing to mark in the clip.</span
          >
        {:else if making && runs(making)}<JobProgress
            job={making}
            changed={() => queries.invalidateQueries({ queryKey: key })}
          />
        {:else}
          {#if making && making.state !== 'done'}<JobProgress
              job={making}
              changed={() => queries.invalidateQueries({ queryKey: key })}
            />{/if}
          {#if marked}<a class="button" href="/api/reviews/{data.review}/marked.mp4" download="marked.mp4"
              >Marked clip, {seconds(marked.seconds)}</a
            > <a class="underline" href="/api/reviews/{data.review}/marked.vtt" download="marked.vtt">captions</a>{/if}
          {#if marked || !making || making.state === 'done'}<button
              class={marked ? 'underline' : 'button main'}
              onclick={makeClip}>{marked ? 'Make it again' : 'Make the marked clip'}</button
            >{/if}
          {#if marked?.lost.length}<span role="alert" style="color: var(--alarm)"
              >Without the voice over {marked.lost.map((cue) => `“${cue}”`).join(', ')}: it could not be read. Record it
              again.</span
            >{/if}
        {/if}
      </div>

      {#if data.compare.length}
        <h2 class="mt-5">Compare</h2>
        <ul class="mt-1 text-sm">
          {#each data.compare as one (one.rep + one.checkpoint)}<li class="py-0.5">
              <a class="underline" href="#/compare/rep.{one.rep}?checkpoint={one.checkpoint}">{one.ask}</a>
              <span class="soft">moving, beside another rep or the studio’s move</span>
            </li>{/each}
        </ul>
      {/if}
      <Films review={data.review} />

      {#if data.said.length}
        <h2 class="mt-5">The student answers</h2>
        <ul class="mt-1 text-sm">
          {#each data.said as one (one.id)}<li class="rule-b py-1.5">
              <b>{one.checkpoint ? spoken(one.checkpoint) : 'To all'}</b>: {saidWords(one)}
              <span class="soft">{at(one.created_at)}</span>
            </li>{/each}
        </ul>
      {/if}

      <h2 class="mt-5">In your words</h2>
      <form class="mt-1 grid gap-2 text-sm" onsubmit={(event) => (event.preventDefault(), void keepWords())}>
        <label
          >What was good <span class="soft">(a line each; empty: {data.good.join(' ') || 'nothing was found'})</span
          ><textarea class="field w-full" rows="2" maxlength="2000" bind:value={words.good}></textarea></label
        >
        {#if data.question}<label
            >Answer to “{data.question}”<textarea
              class="field w-full"
              rows="2"
              maxlength="2000"
              bind:value={words.answer}></textarea></label
          >{/if}
        <label
          >Opening note<textarea class="field w-full" rows="1" maxlength="2000" bind:value={words.note}
          ></textarea></label
        >
        <div class="flex items-end gap-3">
          <span class="flex items-center gap-2"
            >Next clip <DayField
              label="Next clip"
              value={words.next_on ?? ''}
              changed={(day) => words && (words.next_on = day)}
            /> <span class="soft">{words.next_on || !data.next_on ? '' : `empty: ${longDay(data.next_on)}`}</span></span
          >
          <button class="button ml-auto" disabled={!changed}>Save</button>
        </div>
      </form>

      <h2 class="mt-5">Files</h2>
      <div class="mt-1 flex items-center gap-3 text-sm">
        <a class="button" href="/api/reviews/{data.review}/sheet.pdf" download="sheet.pdf"
          ><Download size={16} aria-hidden="true" /> Sheet (PDF)</a
        >
        <Menu>
          <Menu.Trigger class="button">More files <ChevronDown size={16} aria-hidden="true" /></Menu.Trigger>
          <Portal>
            <Menu.Positioner class="z-30">
              <Menu.Content class="menu">
                {#each files as [file, name, saveAs] (file)}
                  <Menu.Item value={file}
                    >{#snippet element(attributes)}<a
                        {...attributes as HTMLAnchorAttributes}
                        href="/api/reviews/{data.review}/{file}"
                        download={saveAs}>{name}</a
                      >{/snippet}</Menu.Item
                  >
                {/each}
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu>
      </div>

      <h2 class="mt-5">Revisions</h2>
      <ul class="mt-1 text-sm">
        {#each data.revisions as revision (revision.number)}
          <li class="rule-b py-1.5">
            <b class="num">{revision.number}</b>
            {at(revision.created_at)}{revision.by ? `, ${revision.by}` : ''}{revision.why ? `: ${revision.why}` : ''}
            {#if revision.changes.length}<ul class="soft list-disc pl-5">
                {#each revision.changes as change (change)}<li>{change}</li>{/each}
              </ul>{/if}
            {#if revision.left.length}<details class="soft" data-testid="was-left">
                <summary>
                  Finished with {revision.left.length}
                  {revision.left.length === 1 ? 'thing' : 'things'} left
                </summary>
                <ul class="list-disc pl-5">
                  {#each revision.left as one, i (i)}<li>{one}</li>{/each}
                </ul>
              </details>{/if}
          </li>
        {/each}
      </ul>
      {#if data.finished}
        {#if reopening}
          <form class="mt-2 flex gap-2 text-sm" onsubmit={(event) => (event.preventDefault(), void reopen())}>
            <label class="grow"
              ><span class="sr-only">Why it is revised</span><input
                class="field w-full"
                bind:value={why}
                maxlength="400"
                required
                placeholder="Why is it revised?"
              /></label
            >
            <button class="button main">Open it again</button>
          </form>
        {:else}<button class="mt-2 text-sm underline" onclick={() => (reopening = true)}>Revise this review</button>
          <span class="soft text-sm">The finished version is kept.</span>{/if}
      {/if}
    </section>
    <section class="min-w-0" aria-label="As the student sees it">
      <h2 class="soft text-sm">As the student sees it</h2>
      {#key version}<iframe
          title="The sheet"
          src="/api/reviews/{data.review}/sheet.html"
          class="mt-1 w-full"
          style="height: max(40rem, calc(100vh - 8rem)); border: 1px solid var(--rule); background: var(--page)"
        ></iframe>{/key}
    </section>
  {:else if page.isPending}<p class="soft">Opening…</p>{/if}
</div>
