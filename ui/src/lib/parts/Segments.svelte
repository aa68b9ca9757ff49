<script lang="ts" generics="T extends string">
  import { SegmentedControl } from '@skeletonlabs/skeleton-svelte'

  interface Props {
    label: string
    choices: readonly (readonly [T, string])[]
    value: T
    changed: (value: T) => void
    disabled?: boolean
    testid?: string
  }
  let { label, choices, value, changed, disabled = false, testid }: Props = $props()

  function chose(next: string | null): void {
    const found = choices.find(([one]) => one === next)
    if (found && found[0] !== value) changed(found[0])
    leave()
  }

  /** A choice leaves the keyboard to the page, also where it was the same as before: the bench steps through
   * frames by arrow keys. */
  function leave(): void {
    requestAnimationFrame(() => {
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
    })
  }
</script>

<SegmentedControl
  {value}
  {disabled}
  onValueChange={(details) => chose(details.value)}
  onclick={leave}
  aria-label={label}
  data-testid={testid}
  data-value={value}
>
  <SegmentedControl.Control class="segments" data-disabled={disabled || undefined}>
    {#each choices as [one, name] (one)}
      <SegmentedControl.Item value={one} class="segment"
        ><SegmentedControl.ItemText>{name}</SegmentedControl.ItemText><SegmentedControl.ItemHiddenInput
        /></SegmentedControl.Item
      >
    {/each}
  </SegmentedControl.Control>
</SegmentedControl>
