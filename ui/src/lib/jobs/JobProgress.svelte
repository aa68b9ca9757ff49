<script lang="ts">
  import { Progress } from '@skeletonlabs/skeleton-svelte'
  import { useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap, type Job } from '../api/client'
  import { Asking } from '../api/asking.svelte'
  import { TASKS, progressOf, runs } from './jobs'

  interface Props {
    job: Job
    /** What is done, where the task's own name does not say it. */
    name?: string
    /** Called when it was stopped or asked for again. */
    changed?: () => unknown
    /** How many wait before it. */
    ahead?: number | null
  }
  let { job, name = TASKS[job.task], changed = () => undefined, ahead = null }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const path = $derived({ params: { path: { job_id: job.id } } })

  async function ask(work: () => Promise<unknown>): Promise<void> {
    if (!(await asking.run(work))) return
    await queries.invalidateQueries({ queryKey: ['jobs'] })
    await changed()
  }
  const stop = () => ask(() => unwrap(client.POST('/api/jobs/{job_id}/stop', path)))
  const again = () => ask(() => unwrap(client.POST('/api/jobs/{job_id}/again', path)))
</script>

<div
  class="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm"
  data-testid="job"
  data-task={job.task}
  data-state={job.state}
>
  {#if runs(job)}
    <Progress value={job.of ? Math.min(100, (100 * job.done) / job.of) : null} class="flex items-center gap-2">
      <Progress.Label class="font-normal">{name}</Progress.Label>
      <Progress.Track class="h-1.5 w-32" style="background: var(--rule)"
        ><Progress.Range style="background: var(--performer)" /></Progress.Track
      >
    </Progress>
    <span class="num soft" role="status">{progressOf(job, ahead)}</span>
    <button class="underline" disabled={job.stop_asked} onclick={stop}>Stop</button>
  {:else if job.state === 'failed'}
    <span role="alert" style="color: var(--alarm)">{name} failed. {job.reason}</span>
    <button class="underline" onclick={again}>Try again</button>
  {:else if job.state === 'stopped'}
    <span class="soft">{name} was stopped.</span>
    <button class="underline" onclick={again}>Try again</button>
  {/if}
  {#if asking.failure}<span role="alert" style="color: var(--alarm)">{asking.failure}</span>{/if}
</div>
