import type { Job } from '../api/client'
import { JOB_STATES } from '../parts/labels'

export type Task = Job['task']

/** What a job is called while it runs. */
export const TASKS: Record<Task, string> = {
  read_clip: 'Reading the clip',
  draw_still: 'Drawing a picture',
  track_points: 'Tracking points',
  draw_example: 'Drawing an example',
  make_marked_clip: 'Making the marked clip',
  make_compared_film: 'Making the film',
}

export function runs(job: Pick<Job, 'state'> | null | undefined): boolean {
  return job?.state === 'waiting' || job?.state === 'running'
}

/** The job of a kind on one thing; there is one at most. */
export function jobOf(jobs: readonly Job[], task: Task, about: string): Job | null {
  return jobs.find((job) => job.task === task && job.about === about) ?? null
}

/** How far it is, in words. */
export function progressOf(
  job: Pick<Job, 'state' | 'done' | 'of' | 'stop_asked'>,
  ahead: number | null = null,
): string {
  if (job.stop_asked && runs(job)) return 'stopping'
  if (job.state === 'waiting' && ahead) return `waiting, ${ahead} before it`
  if (job.state === 'running') return job.of ? `${Math.round((100 * job.done) / job.of)} %` : 'starting'
  return JOB_STATES[job.state]
}
