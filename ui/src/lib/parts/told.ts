import { createToaster } from '@skeletonlabs/skeleton-svelte'

/** Short messages of what was done, in a corner of the screen. What failed stands where it was done, and stays. */
export const toaster = createToaster({ placement: 'bottom-end' })

export function tell(title: string, description?: string): void {
  toaster.create({ title, type: 'success', ...(description ? { description, duration: 12_000 } : {}) })
}
