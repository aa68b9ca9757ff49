<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte'
  import X from '@lucide/svelte/icons/x'
  import type { Snippet } from 'svelte'

  interface Props {
    open: boolean
    title: string
    /** The widest that it is, as a class. */
    width?: string
    /** For questions: a click beside it answers nothing. */
    question?: boolean
    children: Snippet
    closed?: () => void
  }
  let {
    open = $bindable(),
    title,
    width = 'max-w-2xl',
    question = false,
    children,
    closed = () => undefined,
  }: Props = $props()

  function changed(next: boolean): void {
    open = next
    if (!next) closed()
  }
</script>

<Dialog
  {open}
  onOpenChange={(details) => changed(details.open)}
  role={question ? 'alertdialog' : 'dialog'}
  closeOnInteractOutside={!question}
>
  <Portal>
    <Dialog.Backdrop class="fixed inset-0 z-40" style="background: rgb(20 24 26 / 0.55)" />
    <Dialog.Positioner class="fixed inset-0 z-40 grid place-items-center overflow-y-auto p-4">
      <Dialog.Content
        class="w-full {width} p-6"
        style="background: var(--page); color: var(--ink); border: 2px solid var(--ink)"
      >
        <div class="flex items-baseline gap-4">
          <Dialog.Title class="text-xl font-bold">{title}</Dialog.Title>
          {#if !question}<Dialog.CloseTrigger class="ml-auto" aria-label="Close"
              ><X size={20} aria-hidden="true" /></Dialog.CloseTrigger
            >{/if}
        </div>
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
