<script lang="ts">
  import { Portal, Tooltip } from '@skeletonlabs/skeleton-svelte'
  import type { HTMLAttributes } from 'svelte/elements'
  import type { Snippet } from 'svelte'

  interface Props {
    text: string
    /** The thing that it is about; it gets the attributes that show the text on hover and focus. */
    of: Snippet<[HTMLAttributes<HTMLElement>]>
  }
  let { text, of }: Props = $props()
</script>

<Tooltip openDelay={350} closeDelay={80} positioning={{ placement: 'bottom' }}>
  <Tooltip.Trigger>
    {#snippet element(attributes)}{@render of(attributes as HTMLAttributes<HTMLElement>)}{/snippet}
  </Tooltip.Trigger>
  <Portal>
    <Tooltip.Positioner class="z-50">
      <Tooltip.Content class="max-w-xs px-2 py-1 text-sm" style="background: var(--ink); color: var(--page)"
        >{text}</Tooltip.Content
      >
    </Tooltip.Positioner>
  </Portal>
</Tooltip>
