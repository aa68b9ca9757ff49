<script lang="ts">
  import { Progress } from '@skeletonlabs/skeleton-svelte'

  interface Props {
    label: string
    /** From 0 to 1. */
    share: number
  }
  let { label, share }: Props = $props()
</script>

<Progress value={Math.round(100 * Math.min(1, share))} class="w-40">
  <Progress.Label class="sr-only">{label}</Progress.Label>
  <Progress.Track class="h-1.5" style="background: var(--rule)"
    ><Progress.Range style="background: var(--performer)" /></Progress.Track
  >
</Progress>
