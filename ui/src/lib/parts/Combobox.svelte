<script lang="ts">
  import { Combobox, Portal, useListCollection } from '@skeletonlabs/skeleton-svelte'
  import ChevronDown from '@lucide/svelte/icons/chevron-down'
  import { found, type Item } from './search'

  interface Props {
    /** What it chooses, for those who do not see it. */
    label: string
    items: readonly Item[]
    value: string
    changed: (value: string) => void
    placeholder?: string
    disabled?: boolean
    required?: boolean
    testid?: string
    /** Width of the field, as a class. */
    width?: string
  }
  let {
    label,
    items,
    value,
    changed,
    placeholder = 'Search…',
    disabled = false,
    required = false,
    testid,
    width = 'w-56',
  }: Props = $props()
  let text = $state('')
  let searching = $state(false)
  const shown = $derived(searching ? found(items, text) : [...items])
  const collection = $derived(
    useListCollection({
      items: shown,
      itemToString: (item: Item) => item.label,
      itemToValue: (item: Item) => item.value,
    }),
  )

  function chose(next: string | undefined): void {
    searching = false
    if (next !== undefined && next !== value) changed(next)
  }

  let field = $state<HTMLElement>()

  /** A closed list leaves the keyboard to the page: the bench has keys of its own. The part focuses its field a
   * frame after it closes. */
  function opened(open: boolean): void {
    if (open) return
    searching = false
    requestAnimationFrame(() => requestAnimationFrame(() => field?.querySelector('input')?.blur()))
  }
</script>

<div bind:this={field} class={width}>
  <Combobox
    {collection}
    {placeholder}
    {disabled}
    {required}
    value={value ? [value] : []}
    inputBehavior="autohighlight"
    openOnClick
    selectionBehavior="replace"
    onInputValueChange={(details) =>
      details.reason === 'input-change' ? ((text = details.inputValue), (searching = true)) : (searching = false)}
    onOpenChange={(details) => opened(details.open)}
    onValueChange={(details) => chose(details.value[0])}
  >
    <Combobox.Label class="sr-only">{label}</Combobox.Label>
    <Combobox.Control class="relative">
      <Combobox.Input
        class="field w-full pr-7"
        data-testid={testid}
        data-value={value}
        autocomplete="off"
        spellcheck="false"
      />
      {#if !disabled}<Combobox.Trigger
          class="absolute inset-y-0 right-1 flex items-center"
          aria-label="Show all: {label}"
          tabindex={-1}><ChevronDown size={16} aria-hidden="true" /></Combobox.Trigger
        >{/if}
    </Combobox.Control>
    <Portal>
      <Combobox.Positioner class="z-50">
        <Combobox.Content class="floating max-h-80 overflow-y-auto py-1">
          {#each shown as item (item.value)}
            <Combobox.Item {item} class="option cursor-pointer px-3 py-1"
              ><Combobox.ItemText>{item.label}</Combobox.ItemText></Combobox.Item
            >
          {:else}<li class="soft px-3 py-1">Nothing has this name.</li>{/each}
        </Combobox.Content>
      </Combobox.Positioner>
    </Portal>
  </Combobox>
</div>
