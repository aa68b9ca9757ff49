<script lang="ts">
  import { Toast } from '@skeletonlabs/skeleton-svelte'
  import Check from '@lucide/svelte/icons/check'
  import X from '@lucide/svelte/icons/x'
  import { toaster } from './told'
</script>

<Toast.Group {toaster} class="print:hidden">
  {#snippet children(toast)}
    <Toast {toast} class="floating flex max-w-md items-start gap-3 p-3" style="border-color: var(--met)">
      <Check size={18} style="color: var(--met)" class="mt-0.5 flex-none" aria-hidden="true" />
      <Toast.Message>
        <Toast.Title class="font-semibold">{toast.title}</Toast.Title>
        {#if toast.description}<Toast.Description class="text-sm break-words">{toast.description}</Toast.Description
          >{/if}
      </Toast.Message>
      <Toast.CloseTrigger class="ml-auto" aria-label="Close"><X size={16} aria-hidden="true" /></Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>
