<script lang="ts">
  import { Switch } from '@skeletonlabs/skeleton-svelte'

  interface Props {
    label: string
    checked: boolean
    changed: (checked: boolean) => void
  }
  let { label, checked, changed }: Props = $props()
</script>

<Switch class="flex items-center gap-2" {checked} onCheckedChange={(details) => changed(details.checked)}>
  <Switch.Control class="switch"><Switch.Thumb class="thumb" /></Switch.Control>
  <Switch.Label>{label}</Switch.Label>
  <Switch.HiddenInput />
</Switch>
