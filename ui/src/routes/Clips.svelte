<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap, type Clip } from '../lib/api/client'
  import { Upload } from '../lib/intake/upload.svelte'
  import { bytes, day } from '../lib/parts/words'

  const queries = useQueryClient()
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const clips = createQuery(() => ({
    queryKey: ['clips'],
    queryFn: () => unwrap(client.GET('/api/clips')),
    refetchInterval: (query) => (query.state.data?.some((clip) => clip.state === 'waiting' || clip.state === 'reading') ? 500 : false),
  }))

  const NEW = 'new'
  let student = $state('')
  let newName = $state('')
  let filmedOn = $state(new Date().toLocaleDateString('sv'))
  let uploads = $state<Upload[]>([])
  let failure = $state('')
  let over = $state(false)
  let picker = $state<HTMLInputElement>()

  async function owner(): Promise<string> {
    if (student !== NEW) return student
    const created = await unwrap(client.POST('/api/students', { body: { name: newName, side_policy: 'both', note: '' } }))
    await queries.invalidateQueries({ queryKey: ['students'] })
    student = created.id
    return created.id
  }

  async function take(files: FileList | null | undefined): Promise<void> {
    failure = ''
    if (!files?.length) return void (failure = 'No file was chosen. Choose a video, or drop one here.')
    if (!student || (student === NEW && !newName.trim())) return void (failure = 'Say first whose clip this is; then choose the file again.')
    try {
      const id = await owner()
      for (const file of files) {
        const upload = new Upload(file, { student: id, filmed_on: filmedOn }, () => {
          uploads = uploads.filter((other) => other !== upload)
          void queries.invalidateQueries({ queryKey: ['clips'] })
        })
        uploads.push(upload)
        upload.start()
      }
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    } finally {
      if (picker) picker.value = ''
    }
  }

  async function act(work: Promise<unknown>): Promise<void> {
    failure = ''
    try {
      await work
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
    // A deleted clip takes its faults and corrections along.
    await queries.invalidateQueries()
  }

  /** What waits for the coach first; what was reviewed below. */
  const groups = $derived.by(() => {
    const all = clips.data ?? []
    const waiting = all.filter((clip) => clip.review !== 'finished')
    const reviewed = all.filter((clip) => clip.review === 'finished')
    return [{ title: 'Waiting for you', clips: waiting }, { title: 'Reviewed', clips: reviewed }].filter((group) => group.clips.length > 0)
  })
  const path = (clip: Clip) => ({ params: { path: { clip_id: clip.id } } })
  const stop = (clip: Clip) => act(unwrap(client.POST('/api/clips/{clip_id}/stop', path(clip))))
  const again = (clip: Clip) => act(unwrap(client.POST('/api/clips/{clip_id}/read-again', path(clip))))
  function remove(clip: Clip): void {
    if (confirm(`Delete “${clip.name}” with its review and everything made from it? This cannot be undone.`))
      void act(unwrap(client.DELETE('/api/clips/{clip_id}', path(clip))))
  }
  const facts = (clip: Clip) =>
    `${clip.has_film ? '' : 'measures only, film not kept · '}${clip.width}×${clip.height} · ${clip.frames_done} frames · ${clip.nominal_fps?.toFixed(1)} fps${clip.variable_rate ? ', variable' : ''} · ${clip.duration_s?.toFixed(1)} s`
</script>

<div class="mx-auto max-w-5xl px-5 py-6">
  <h1>Clips</h1>
  <section
    class="mt-4 flex flex-wrap items-end gap-4 p-4"
    class:over
    style="border: 1.5px dashed var(--soft)"
    aria-label="Take in clips"
    ondragover={(event) => (event.preventDefault(), (over = true))}
    ondragleave={() => (over = false)}
    ondrop={(event) => (event.preventDefault(), (over = false), void take(event.dataTransfer?.files))}
    role="group"
  >
    <label class="flex flex-col gap-1 text-sm">Whose clip
      <select class="field" bind:value={student} data-testid="student">
        <option value="" disabled>choose a student</option>
        {#each students.data ?? [] as row (row.id)}<option value={row.id}>{row.name}</option>{/each}
        <option value={NEW}>a new student…</option>
      </select>
    </label>
    {#if student === NEW}
      <label class="flex flex-col gap-1 text-sm">Name <input class="field" bind:value={newName} maxlength="100" /></label>
    {/if}
    <label class="flex flex-col gap-1 text-sm">Filmed on <input class="field num" type="date" bind:value={filmedOn} /></label>
    <label class="button main">
      Choose videos
      <input bind:this={picker} class="sr-only" type="file" multiple accept="video/*,.mkv,.avi,.mov,.mp4,.webm,.m4v" onchange={(event) => void take(event.currentTarget.files)} />
    </label>
    <span class="soft text-sm">or drop them here. A broken upload goes on where it stopped. Clips stay private to your academy.</span>
  </section>
  {#if failure}<p class="notice bad mt-3" role="alert">{failure}</p>{/if}

  {#each uploads as upload (upload)}
    <div class="rule-b mt-3 flex items-center gap-3 pb-3 text-sm" data-upload={upload.file.name}>
      <span class="font-semibold">{upload.file.name}</span>
      {#if upload.failure}
        <span role="alert" style="color: var(--alarm)">{upload.failure}</span>
        {#if upload.canRetry}<button class="button" onclick={() => upload.start()}>Try again</button>{/if}
        <button class="button" onclick={() => (uploads = uploads.filter((other) => other !== upload))}>Dismiss</button>
      {:else}
        <progress class="bar" max="1" value={upload.share} aria-label="sent"></progress>
        <span class="num soft">{bytes(upload.sent)} of {bytes(upload.file.size)} · {upload.rate}</span>
        <button class="button" onclick={() => (upload.cancel(), (uploads = uploads.filter((other) => other !== upload)))}>Cancel</button>
      {/if}
    </div>
  {/each}

  {#if clips.error}<p class="notice bad mt-4" role="alert">{clips.error.message}</p>{/if}
  {#each groups as group (group.title)}
  <h2 class="mt-6">{group.title} <span class="num soft text-sm font-normal">{group.clips.length}</span></h2>
  <ul class="mt-2" style="border-top: 2px solid var(--ink)">
    {#each group.clips as clip (clip.id)}
      <li class="rule-b grid items-center gap-x-4 gap-y-1 px-1 py-3" style="grid-template-columns: minmax(0, 1fr) auto" data-clip={clip.name}>
        <div class="min-w-0">
          <span class="font-semibold">{clip.student}</span>
          <span class="soft"> · {day(clip.filmed_on)} · <span class="break-all">{clip.name}</span></span>
          <div class="soft text-sm">
            {#if clip.state === 'ready'}<span class="num">{facts(clip)}</span>
            {:else if clip.state === 'reading' || clip.state === 'waiting'}
              <span class="flex items-center gap-3">
                <progress class="bar" max={clip.frames_expected || 1} value={clip.state === 'waiting' ? 0 : clip.frames_done} aria-label="frames read"></progress>
                <span class="num">{clip.state === 'waiting' ? 'waits to be read' : `frame ${clip.frames_done} of ${clip.frames_expected ?? '?'} read`}</span>
              </span>
            {:else if clip.state === 'stopped'}Stopped. The original is kept.
            {:else}<span role="alert" style="color: var(--alarm)">{clip.failure}</span>{/if}
          </div>
        </div>
        <div class="flex items-center gap-2">
          {#if clip.state === 'ready'}
            {#if clip.review === 'finished'}<span class="soft text-sm">reviewed</span>{/if}
            <a class="button" class:main={clip.review !== 'finished'} href="#/bench/{clip.id}">{clip.review === 'none' ? 'Review' : clip.review === 'open' ? 'Go on' : 'Look'}</a>
          {:else if clip.state === 'reading' || clip.state === 'waiting'}<button class="button" onclick={() => stop(clip)}>Stop</button>
          {:else}<button class="button" onclick={() => again(clip)}>Read again</button>{/if}
          {#if clip.state !== 'reading'}<button class="soft px-1 text-sm underline" onclick={() => remove(clip)} aria-label="Delete {clip.name}">delete</button>{/if}
        </div>
      </li>
    {/each}
  </ul>
  {:else}
    {#if clips.isSuccess}<p class="soft mt-6 py-4">No clips yet. Choose a student above and drop a video: it is read in, and then waits here for the bench.</p>{/if}
  {/each}
</div>

<style>
  .over {
    background: var(--band);
  }
  .bar {
    width: 12rem;
    height: 0.5rem;
    appearance: none;
    border: 1px solid var(--soft);
    background: transparent;
  }
  .bar::-webkit-progress-bar {
    background: transparent;
  }
  .bar::-webkit-progress-value,
  .bar::-moz-progress-bar {
    background: var(--performer);
  }
</style>
